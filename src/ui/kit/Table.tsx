'use client';

import { type ReactNode, useRef } from 'react';
import { Spacer } from './Spacer';
import { useLongRows } from './useLongRows';

/** Height of a row in pixels, before it is measured. */
const ROW = 24;

/** A column of a table of facts; figures stand to the right in even digits. */
export interface Column {
  readonly title: string;
  readonly figures?: boolean;
  readonly mono?: boolean;
}

interface Props {
  readonly columns: readonly Column[];
  readonly rows: readonly {
    readonly key: string | number;
    readonly cells: readonly ReactNode[];
    readonly wrong?: boolean;
  }[];
}

const isShort = (cell: ReactNode): boolean => typeof cell === 'string' && cell.length <= 14;

/** A plain table of facts. */
export function FactTable({ columns, rows }: Props) {
  const body = useRef<HTMLTableSectionElement>(null);
  const { rows: seen, above, below, measure } = useLongRows(body, rows.length, ROW);
  const align = ({ figures }: Column) => (figures ? 'pl-3 text-right' : 'pr-2 pl-3 text-left first:pl-0');
  // Figures stay whole; in a narrow window only those that have the room for it.
  const wrap = ({ figures }: Column, cell: ReactNode) =>
    !figures ? '' : isShort(cell) ? 'whitespace-nowrap' : 'whitespace-nowrap max-[1180px]:whitespace-normal';
  const face = ({ figures, mono }: Column) => (figures || mono ? 'font-mono text-sm' : '');
  return (
    <table className="mt-1 w-full border-collapse" aria-rowcount={rows.length + 1}>
      <thead>
        <tr className="border-b border-line text-xs text-soft">
          {columns.map((column) => (
            <th key={column.title} className={`py-1 font-normal ${align(column)}`}>
              {column.title}
            </th>
          ))}
        </tr>
      </thead>
      <tbody ref={body}>
        <Spacer height={above} />
        {seen.map(({ index }) => {
          const { key, cells, wrong } = rows[index]!;
          return (
            <tr
              key={key}
              ref={measure}
              data-index={index}
              className={`border-b border-hair ${wrong ? 'text-stop' : ''}`}
            >
              {columns.map((column, i) => (
                <td key={column.title} className={`py-0.5 ${align(column)} ${face(column)} ${wrap(column, cells[i])}`}>
                  {cells[i]}
                </td>
              ))}
            </tr>
          );
        })}
        <Spacer height={below} />
      </tbody>
    </table>
  );
}
