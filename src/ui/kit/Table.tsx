import type { ReactNode } from 'react';

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

/** A plain table of facts. */
export function FactTable({ columns, rows }: Props) {
  const align = ({ figures }: Column) =>
    figures ? 'pl-3 text-right whitespace-nowrap' : 'pr-2 pl-3 text-left first:pl-0';
  const face = ({ figures, mono }: Column) => (figures || mono ? 'font-mono text-sm' : '');
  return (
    <table className="mt-1 w-full border-collapse">
      <thead>
        <tr className="border-b border-line text-xs text-soft">
          {columns.map((column) => (
            <th key={column.title} className={`py-1 font-normal ${align(column)}`}>
              {column.title}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(({ key, cells, wrong }) => (
          <tr key={key} className={`border-b border-hair ${wrong ? 'text-stop' : ''}`}>
            {columns.map((column, i) => (
              <td key={column.title} className={`py-0.5 ${align(column)} ${face(column)}`}>
                {cells[i]}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
