'use client';

import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react';
import { shortNames } from '@/core/filesystems/fat/short-names';
import { labelText } from '@/core/filesystems/fat/label';
import { nameTroubles, pathIn } from '@/core/filesystems/allocation';
import { type NameRules, nameTrouble } from '@/core/filesystems/names';
import { modeOf, type TreeNode } from '@/core/filesystems/tree';
import { octal, shownName } from './owned';
import { counted, grouped, inBinary } from '@/core/quantity/units';
import { Key } from '../kit/Key';
import { Spacer } from '../kit/Spacer';
import { type LongRows, useLongRows } from '../kit/useLongRows';

/** Height of a row in pixels, before it is measured. */
const ROW = 25;

interface Sums {
  readonly files: number;
  readonly others: number;
  readonly bytes: number;
}

function sumsOf(node: TreeNode): Sums {
  if (node.kind === 'file') return { files: 1, others: 0, bytes: node.entry.size };
  if (node.kind !== 'folder') return { files: 0, others: 1, bytes: 0 };
  return node.children
    .map(sumsOf)
    .reduce((a, b) => ({ files: a.files + b.files, others: a.others + b.others, bytes: a.bytes + b.bytes }), {
      files: 0,
      others: 0,
      bytes: 0,
    });
}

/** The alias that each name of a folder gets; undefined where a name cannot be stored at all. */
function aliasesOf(children: readonly TreeNode[]): (string | undefined)[] {
  const names = children.map((one) => one.name);
  if (names.some((name) => nameTrouble(name) !== undefined)) return names.map(() => undefined);
  return shortNames(names).map(({ bytes, isAlias }) => {
    if (!isAlias) return '';
    const [base, extension] = [labelText(bytes.subarray(0, 8)), labelText(bytes.subarray(8))];
    return extension === '' ? base : `${base}.${extension}`;
  });
}

/** What is wrong with the names of a folder, by path, in words. */
function troublesOf(path: string, children: TreeNode[], rules: NameRules): ReadonlyMap<string, string> {
  const found = nameTroubles({ path, children }, rules).map((one): [string, string] => [
    one.path,
    one.kind === 'name' ? one.why : `differs from ${one.other.slice(one.other.lastIndexOf('/') + 1)} by case at most`,
  ]);
  // A name that cannot be stored at all is told first.
  return new Map(found.reverse());
}

/** How much there is of something, or what it is where it has no bytes of its own. */
function sizeText(node: TreeNode): string {
  switch (node.kind) {
    case 'folder': {
      const { files, others, bytes } = sumsOf(node);
      const beside = others > 0 ? ` and ${counted(others, 'other')}` : '';
      return `${counted(files, 'file')}${beside}, ${inBinary(bytes)}`;
    }
    case 'file':
      return `${grouped(node.entry.size)} B${node.entry.pieces ? ', with holes' : ''}`;
    case 'link':
      return `link to ${shownName(node.entry.target)}`;
    case 'second name':
      return `second name of ${shownName(node.entry.of)}`;
    case 'device':
      return `${node.entry.device} device ${node.entry.major}, ${node.entry.minor}`;
    default:
      return node.kind;
  }
}

/** Who owns it, and who may do what: the mode in its four octal digits. */
function OwnedText({ node: { entry } }: { readonly node: TreeNode }) {
  if (entry?.kind === 'second name') return null;
  const extended = Object.keys(entry?.extended ?? {}).length;
  return (
    <span className="font-mono">
      {entry?.user ?? 0}:{entry?.group ?? 0} {octal(modeOf(entry))}
      {extended > 0 && ` + ${counted(extended, 'attribute')}`}
    </span>
  );
}

/** One thing in the folder that is shown. */
function Row({
  index,
  measure,
  node,
  trouble,
  alias,
  isSelected,
  takesFocus,
  keepsAll,
  onSelect,
  onOpen,
}: {
  readonly index: number;
  readonly measure: LongRows['measure'];
  readonly node: TreeNode;
  readonly trouble: string | undefined;
  readonly alias: string | undefined;
  readonly isSelected: boolean;
  /** Keys led here. */
  readonly takesFocus: boolean;
  readonly keepsAll: boolean;
  readonly onSelect: () => void;
  readonly onOpen: () => void;
}) {
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (takesFocus) button.current?.focus();
  }, [takesFocus]);
  return (
    <tr
      ref={measure}
      data-index={index}
      aria-rowindex={index + 2}
      className={`border-b border-hair ${isSelected ? 'bg-selected' : ''}`}
    >
      <td className="py-0.5 pr-2">
        <button
          type="button"
          ref={button}
          aria-pressed={isSelected}
          onClick={onSelect}
          onDoubleClick={node.kind === 'folder' ? onOpen : undefined}
          className={`max-w-[420px] truncate rounded-sm text-left font-mono text-sm hover:underline ${trouble ? 'text-stop' : ''}`}
        >
          {shownName(node.name)}
          {node.kind === 'folder' && '/'}
        </button>
        {node.kind === 'folder' && (
          <button
            type="button"
            onClick={onOpen}
            aria-label={`Open ${node.name}`}
            className="ml-2 rounded-sm text-soft underline decoration-hair underline-offset-2 hover:decoration-current"
          >
            open
          </button>
        )}
        {trouble && <span className="ml-2 text-sm text-stop">{trouble}</span>}
      </td>
      <td className="px-2 font-mono text-sm text-soft">{alias}</td>
      <td className="px-2 text-right font-mono text-sm whitespace-nowrap">{sizeText(node)}</td>
      <td className="px-2 font-mono text-sm whitespace-nowrap text-soft">
        {node.entry?.time?.replace('T', ' ') ?? '–'}
      </td>
      <td className="pl-2 text-sm whitespace-nowrap text-soft">
        {keepsAll ? <OwnedText node={node} /> : node.entry?.attributes?.join(', ')}
      </td>
    </tr>
  );
}

/** What can be done with the keys. */
function TableKeys() {
  return (
    <p className="mt-2 flex flex-wrap items-center gap-x-1.5 gap-y-1 text-sm text-soft">
      <span>More can be dropped here, up to 64 GiB at a time.</span> <Key>↑</Key> <Key>↓</Key> choose, <Key>→</Key>{' '}
      opens, <Key>Backspace</Key> goes up,
      <Key>Alt ↑</Key> <Key>Alt ↓</Key> earlier or later, <Key>Delete</Key> takes out
    </p>
  );
}

interface TableProps {
  readonly children: readonly TreeNode[];
  readonly path: string;
  readonly selected: string | undefined;
  readonly onSelect: (path: string) => void;
  readonly onOpen: (path: string) => void;
  /** Puts one ahead of another, or at the end. */
  readonly onMove: (path: string, before: string | undefined) => void;
  readonly onRemove: (path: string) => void;
  /** What its names may hold. */
  readonly rules: NameRules;
  readonly isFat: boolean;
  /** Owners and modes are kept. */
  readonly keepsAll: boolean;
}

type KeyProps = Pick<TableProps, 'children' | 'path' | 'selected' | 'onOpen' | 'onMove' | 'onRemove'>;

/** Keys of the table; `go` leads to a row. */
function useTableKeys(
  { children, path, selected, onOpen, onMove, onRemove }: KeyProps,
  go: (index: number) => void,
): (event: KeyboardEvent) => void {
  const pathOf = (node: TreeNode) => pathIn({ path }, node.name);
  return (event) => {
    const at = children.findIndex((one) => pathOf(one) === selected);
    const keys: Record<string, () => void> = {
      ArrowDown: () => go(at + 1),
      ArrowUp: () => go(at < 0 ? children.length - 1 : at - 1),
      Home: () => go(0),
      End: () => go(children.length - 1),
      Backspace: () => path !== '' && onOpen(path.slice(0, Math.max(0, path.lastIndexOf('/')))),
    };
    const selectedKeys: Record<string, () => void> = {
      ArrowRight: () => children[at]?.kind === 'folder' && onOpen(selected!),
      Delete: () => onRemove(selected!),
      'Alt+ArrowUp': () => at > 0 && onMove(selected!, pathOf(children[at - 1]!)),
      'Alt+ArrowDown': () =>
        at < children.length - 1 && onMove(selected!, children[at + 2] && pathOf(children[at + 2]!)),
    };
    const name = `${event.altKey ? 'Alt+' : ''}${event.key}`;
    const action = keys[name] ?? (at >= 0 ? selectedKeys[name] : undefined);
    if (!action || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    event.stopPropagation();
    action();
  };
}

export function FolderTable({
  children,
  path,
  selected,
  onSelect,
  onOpen,
  onMove,
  onRemove,
  rules,
  isFat,
  keepsAll,
}: TableProps) {
  const [focused, setFocused] = useState<number>();
  const aliases = useMemo(() => (isFat ? aliasesOf(children) : []), [children, isFat]);
  const troubles = useMemo(() => troublesOf(path, [...children], rules), [path, children, rules]);
  const pathOf = (node: TreeNode) => pathIn({ path }, node.name);
  const body = useRef<HTMLTableSectionElement>(null);
  const { rows, above, below, measure, scrollTo } = useLongRows(body, children.length, ROW);
  const go = (index: number) => {
    const node = children[index];
    if (!node) return;
    onSelect(pathOf(node));
    scrollTo(index);
    setFocused(index);
  };
  const onKeyDown = useTableKeys({ children, path, selected, onOpen, onMove, onRemove }, go);
  return (
    <>
      <table className="w-full" aria-rowcount={children.length + 1}>
        <thead>
          <tr className="border-b border-line text-left text-xs text-soft">
            <th className="py-1 font-normal">name, in the order of the volume</th>
            <th className="px-2 font-normal">{isFat ? 'alias' : ''}</th>
            <th className="px-2 text-right font-normal">size</th>
            <th className="px-2 font-normal">its own time</th>
            <th className="pl-2 font-normal">{keepsAll ? 'owner and mode' : 'attributes'}</th>
          </tr>
        </thead>
        <tbody ref={body} onKeyDown={onKeyDown}>
          <Spacer height={above} />
          {rows.map(({ index }) => {
            const node = children[index];
            if (!node) return null;
            const own = pathOf(node);
            return (
              <Row
                key={node.name}
                index={index}
                measure={measure}
                node={node}
                trouble={troubles.get(own)}
                alias={aliases[index]}
                isSelected={selected === own}
                keepsAll={keepsAll}
                takesFocus={focused === index && selected === own}
                onSelect={() => onSelect(own)}
                onOpen={() => onOpen(own)}
              />
            );
          })}
          <Spacer height={below} />
        </tbody>
      </table>
      <TableKeys />
    </>
  );
}
