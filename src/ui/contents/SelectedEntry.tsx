'use client';

import { type NameRules, nameTrouble, storableName } from '@/core/filesystems/names';
import { copiedOf, FILE_ATTRIBUTES, type FileAttribute, type TreeFile, type TreeNode } from '@/core/filesystems/tree';
import { storedUrl } from '../api';
import { Button, buttonClass } from '../kit/Button';
import { SeveralChoice } from '../kit/Choice';
import { TextField } from '../kit/TextField';
import { OwnedFields } from './OwnedFields';
import type { TreeWork } from './useTree';

/** Where a file is downloaded, which may lie in an archive. */
function fileUrl(file: TreeFile, name: string): string {
  const { from, at, length } = copiedOf(file);
  return storedUrl(from, name, file.within && { at, length });
}

/** What can be done with the selected file or folder. */
export function SelectedEntry({
  node,
  path,
  siblings,
  rules,
  keepsAll,
  work,
  onGone,
}: {
  readonly node: TreeNode;
  readonly path: string;
  readonly siblings: readonly string[];
  /** What its name is for. */
  readonly rules: NameRules;
  /** Owners and modes are kept. */
  readonly keepsAll: boolean;
  readonly work: TreeWork;
  readonly onGone: (path: string | undefined) => void;
}) {
  const at = siblings.indexOf(path);
  const above = path.slice(0, path.length - node.name.length);
  const { change } = work;
  const [previous, next] = [siblings[at - 1], siblings[at + 2]];
  return (
    <section aria-label={`About ${node.name}`} className="mt-2 rounded-[6px] border border-line bg-card px-3 py-2">
      <div className="grid grid-cols-[76px_1fr] items-center gap-x-2.5 gap-y-1.5">
        <TextField
          key={path}
          label="Name"
          mono
          value={node.name}
          echo={(draft) => {
            const why = draft === '' ? 'is empty' : nameTrouble(draft, rules);
            return why
              ? { wrong: true, text: `A name that ${why} cannot be stored; ${storableName(draft)} can.` }
              : undefined;
          }}
          onCommit={(name) => {
            void change({ do: 'rename', path, to: above + name }).then((isDone) => isDone && onGone(above + name));
          }}
        />
        {keepsAll && node.kind !== 'second name' && <OwnedFields node={node} path={path} work={work} />}
        {node.entry && !keepsAll && (
          <>
            <span className="text-soft">Attributes</span>
            <SeveralChoice<FileAttribute>
              label="Attributes"
              dense
              values={node.entry.attributes ?? []}
              options={FILE_ATTRIBUTES.map((value) => ({ value, text: value }))}
              onChange={(attributes) => void change({ do: 'attributes', path, attributes })}
            />
          </>
        )}
        {node.kind === 'file' && (
          <>
            <span className="text-soft">SHA-256</span>
            <span className="font-mono text-xs break-all text-soft">{node.entry.sha256}</span>
          </>
        )}
      </div>
      <p className="mt-2 flex gap-1.5">
        <Button disabled={at <= 0} onClick={() => void change({ do: 'move', path, before: previous! })}>
          Earlier
        </Button>
        <Button
          disabled={at >= siblings.length - 1}
          onClick={() => void change({ do: 'move', path, ...(next !== undefined && { before: next }) })}
        >
          Later
        </Button>
        {node.kind === 'file' && !node.entry.pieces && (
          <a className={buttonClass()} href={fileUrl(node.entry, node.name)} download>
            Download
          </a>
        )}
        <span className="flex-1" />
        <Button onClick={() => void change({ do: 'remove', path }).then((isDone) => isDone && onGone(undefined))}>
          Take it out
        </Button>
      </p>
    </section>
  );
}
