'use client';

import { type DragEvent, useRef, useState } from 'react';
import { nameTrouble, storableName } from '@/core/filesystems/names';
import { shortNames } from '@/core/filesystems/fat/short-names';
import { FILE_ATTRIBUTES, type FileAttribute, type Node, rootOf, type Tree, treeSums } from '@/core/filesystems/tree';
import { fillingOf, treeOfSlot } from '@/core/layout/contents';
import type { PartitionSlot } from '@/core/layout/document';
import { roomOf } from '@/core/placement/volumes';
import type { PlacedPartition } from '@/core/placement/placement';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import { labelText } from '@/core/filesystems/label';
import { storedUrl } from '../api';
import { useDesigner } from '../designer/context';
import { Button, buttonClass } from '../kit/Button';
import { Choice, SeveralChoice } from '../kit/Choice';
import { SendingProgress } from '../kit/sending';
import { TextField } from '../kit/TextField';
import { FromImage } from './FromImage';
import { chosenFiles, droppedFiles } from './tar';
import { type TreeWork, useTree } from './useTree';

/** Most rows of a folder that are shown before it is asked for more. */
const ROWS = 400;

/** The folder of a tree that a path leads to; the root where it leads nowhere any more. */
function folderAt(tree: Tree, path: string) {
  const names = path === '' ? [] : path.split('/');
  let folder = rootOf(tree);
  for (const name of names) {
    const next = folder.children.find((one) => one.kind === 'folder' && one.name === name);
    if (next?.kind !== 'folder') return rootOf(tree);
    folder = next;
  }
  return folder;
}

function sumsOf(node: Node): { files: number; bytes: number } {
  if (node.kind === 'file') return { files: 1, bytes: node.entry.size };
  return node.children
    .map(sumsOf)
    .reduce((a, b) => ({ files: a.files + b.files, bytes: a.bytes + b.bytes }), { files: 0, bytes: 0 });
}

/** How the room is used: clusters and bytes, and what does not fit. */
function RoomLine({ placed, tree }: { readonly placed: PlacedPartition; readonly tree: Tree }) {
  const placement = useDesigner((state) => state.placement);
  const room = roomOf(placed, placement);
  const { files, folders, bytes } = treeSums(tree);
  if (!room) return <p className="text-stop">No such volume can be made here; the designer says why.</p>;
  const share = Math.min(1, room.used / room.clusters);
  const isOver = room.used > room.clusters;
  return (
    <div className="mb-2">
      <p>
        {counted(files, 'file')} in {counted(folders, 'folder')}, {inBoth(bytes)}; {grouped(room.used)} of{' '}
        {grouped(room.clusters)} clusters of {inBinary(room.clusterBytes)} taken, {inBinary(room.slack)} lost in last
        ones
      </p>
      <div className="mt-1 h-2 overflow-hidden rounded-full border border-line bg-paper" aria-hidden="true">
        <div className={`h-full ${isOver ? 'bg-stop' : 'bg-slate'}`} style={{ width: `${share * 100}%` }} />
      </div>
      {isOver && (
        <p className="mt-1 text-stop">
          {inBoth((room.used - room.clusters) * room.clusterBytes)} too much: “{room.misfit}” is the first without room.
        </p>
      )}
    </div>
  );
}

function Crumbs({ path, go }: { readonly path: string; readonly go: (path: string) => void }) {
  const names = path === '' ? [] : path.split('/');
  return (
    <nav aria-label="Folder" className="flex flex-wrap items-center gap-1 font-mono text-sm">
      <button type="button" className="rounded-sm hover:underline" onClick={() => go('')}>
        volume
      </button>
      {names.map((name, i) => (
        <span key={i} className="flex gap-1">
          <span className="text-soft">\</span>
          <button
            type="button"
            className="rounded-sm hover:underline"
            onClick={() => go(names.slice(0, i + 1).join('/'))}
          >
            {name}
          </button>
        </span>
      ))}
    </nav>
  );
}

/** The alias that each name of a folder gets; undefined where a name cannot be stored at all. */
function aliasesOf(children: readonly Node[]): (string | undefined)[] {
  const names = children.map((one) => one.name);
  if (names.some((name) => nameTrouble(name) !== undefined)) return names.map(() => undefined);
  return shortNames(names).map(({ bytes, isAlias }) => {
    if (!isAlias) return '';
    const [base, extension] = [labelText(bytes.subarray(0, 8)), labelText(bytes.subarray(8))];
    return extension === '' ? base : `${base}.${extension}`;
  });
}

function Messages({ work, under }: { readonly work: TreeWork; readonly under: string }) {
  const { refused, leftOut, waiting, sending } = work;
  const canLeaveOut = refused?.code === 'archive-cannot-be-stored';
  return (
    <>
      {sending && <SendingProgress sending={sending} />}
      {waiting && !sending && (
        <p className="my-1 flex flex-wrap items-center gap-2 rounded-[5px] bg-selected px-2 py-1">
          <span className="flex-1">
            <span className="font-mono text-sm">{waiting.name}</span>{' '}
            {waiting.kind === 'archive'
              ? 'is an archive.'
              : `is a folder with ${counted(waiting.files.length, 'file')}.`}
          </span>
          <Button look="primary" onClick={() => void work.putInside(under, false)}>
            Put in what is in it
          </Button>
          <Button onClick={() => void work.putWhole(under)}>
            {waiting.kind === 'archive' ? 'Put it in as one file' : 'Put it in as a folder'}
          </Button>
          <Button look="quiet" onClick={work.dismiss}>
            Neither
          </Button>
        </p>
      )}
      {refused && (
        <p role="alert" className="my-1 flex items-center gap-2 text-stop">
          <span className="flex-1">{refused.sentence}</span>
          {canLeaveOut && waiting && <Button onClick={() => void work.putInside(under, true)}>Leave them out</Button>}
          <Button look="quiet" onClick={work.dismiss}>
            Understood
          </Button>
        </p>
      )}
      {leftOut.length > 0 && (
        <details className="my-1" open>
          <summary className="cursor-pointer">{grouped(leftOut.length)} left out</summary>
          <ul className="max-h-32 overflow-y-auto text-soft">
            {leftOut.slice(0, 200).map(({ path, why }, i) => (
              <li key={i}>
                <span className="font-mono text-sm">{path}</span> {why}
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

/** What can be done with the selected file or folder. */
function Selected({
  node,
  path,
  siblings,
  work,
  onGone,
}: {
  readonly node: Node;
  readonly path: string;
  readonly siblings: readonly string[];
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
            const why = draft === '' ? 'is empty' : nameTrouble(draft);
            return why
              ? { wrong: true, text: `A name that ${why} cannot be stored; ${storableName(draft)} can.` }
              : undefined;
          }}
          onCommit={(name) => {
            void change({ do: 'rename', path, to: above + name }).then((isDone) => isDone && onGone(above + name));
          }}
        />
        {node.entry && (
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
        {node.kind === 'file' && (
          <a className={buttonClass()} href={storedUrl(node.entry.sha256, node.name)} download>
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

/** One thing in the folder that is shown. */
function Row({
  node,
  alias,
  isSelected,
  onSelect,
  onOpen,
}: {
  readonly node: Node;
  readonly alias: string | undefined;
  readonly isSelected: boolean;
  readonly onSelect: () => void;
  readonly onOpen: () => void;
}) {
  const trouble = nameTrouble(node.name);
  const { files, bytes } = sumsOf(node);
  return (
    <tr className={`border-b border-hair ${isSelected ? 'bg-selected' : ''}`}>
      <td className="py-0.5 pr-2">
        <button
          type="button"
          aria-pressed={isSelected}
          onClick={onSelect}
          onDoubleClick={node.kind === 'folder' ? onOpen : undefined}
          className={`max-w-[420px] truncate rounded-sm text-left font-mono text-sm hover:underline ${trouble ? 'text-stop' : ''}`}
        >
          {node.name}
          {node.kind === 'folder' && '\\'}
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
      <td className="px-2 text-right font-mono text-sm whitespace-nowrap">
        {node.kind === 'folder' ? `${counted(files, 'file')}, ${inBinary(bytes)}` : `${grouped(bytes)} B`}
      </td>
      <td className="px-2 font-mono text-sm whitespace-nowrap text-soft">
        {node.entry?.time?.replace('T', ' ') ?? '–'}
      </td>
      <td className="pl-2 text-sm text-soft">{node.entry?.attributes?.join(', ')}</td>
    </tr>
  );
}

function FolderTable({
  children,
  path,
  selected,
  onSelect,
  onOpen,
  isFat,
}: {
  readonly children: readonly Node[];
  readonly path: string;
  readonly selected: string | undefined;
  readonly onSelect: (path: string) => void;
  readonly onOpen: (path: string) => void;
  readonly isFat: boolean;
}) {
  const [shown, setShown] = useState(ROWS);
  const aliases = isFat ? aliasesOf(children) : [];
  const pathOf = (node: Node) => (path === '' ? node.name : `${path}/${node.name}`);
  return (
    <>
      <table className="w-full">
        <thead>
          <tr className="border-b border-line text-left text-xs text-soft">
            <th className="py-1 font-normal">name, in the order of the volume</th>
            <th className="px-2 font-normal">{isFat ? 'alias' : ''}</th>
            <th className="px-2 text-right font-normal">size</th>
            <th className="px-2 font-normal">its own time</th>
            <th className="pl-2 font-normal">attributes</th>
          </tr>
        </thead>
        <tbody>
          {children.slice(0, shown).map((node, i) => (
            <Row
              key={node.name}
              node={node}
              alias={aliases[i]}
              isSelected={selected === pathOf(node)}
              onSelect={() => onSelect(pathOf(node))}
              onOpen={() => onOpen(pathOf(node))}
            />
          ))}
        </tbody>
      </table>
      {children.length > shown && (
        <p className="mt-1">
          <Button onClick={() => setShown(shown + 10 * ROWS)}>Show more of {grouped(children.length)}</Button>
        </p>
      )}
    </>
  );
}

/** The buttons that bring files in. */
function Bringing({
  work,
  path,
  openFromImage,
}: {
  readonly work: TreeWork;
  readonly path: string;
  readonly openFromImage: () => void;
}) {
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const [naming, setNaming] = useState(false);
  const isBusy = work.sending !== undefined;
  const take = (list: FileList | null) => {
    if (list) void work.add(chosenFiles(list), path);
  };
  return (
    <div className="my-2 flex flex-wrap items-center gap-1.5">
      <input
        ref={files}
        type="file"
        multiple
        className="hidden"
        aria-label="Files to put in"
        onChange={(event) => {
          take(event.target.files);
          event.target.value = '';
        }}
      />
      <input
        ref={(element) => {
          folder.current = element;
          element?.setAttribute('webkitdirectory', '');
        }}
        type="file"
        className="hidden"
        aria-label="Folder to put in"
        onChange={(event) => {
          take(event.target.files);
          event.target.value = '';
        }}
      />
      <Button onClick={() => files.current?.click()} disabled={isBusy}>
        Files or an archive …
      </Button>
      <Button onClick={() => folder.current?.click()} disabled={isBusy}>
        A folder …
      </Button>
      <Button onClick={openFromImage} disabled={isBusy}>
        From an image …
      </Button>
      {naming ? (
        <span className="grid w-72 grid-cols-[76px_1fr] items-center gap-x-2">
          <TextField
            label="New folder"
            mono
            value=""
            echo={(draft) =>
              draft === '' || nameTrouble(draft) === undefined
                ? undefined
                : { wrong: true, text: `That ${nameTrouble(draft)}.` }
            }
            onCommit={(name) => {
              setNaming(false);
              void work.change({ do: 'folder', path: path === '' ? name : `${path}/${name}` });
            }}
          />
        </span>
      ) : (
        <Button onClick={() => setNaming(true)} disabled={isBusy}>
          An empty folder …
        </Button>
      )}
    </div>
  );
}

/** The files of a volume: what goes in, in which order, and how much room it takes. */
export function FilesPlace({ placed }: { readonly placed: PlacedPartition & { readonly slot: PartitionSlot } }) {
  const { slot } = placed;
  const contents = useDesigner((state) => state.placement.contents);
  const commit = useDesigner((state) => state.commit);
  const work = useTree(slot);
  const [path, setPath] = useState('');
  const [selected, setSelected] = useState<string>();
  const [over, setOver] = useState(false);
  const [fromImage, setFromImage] = useState(false);
  const filling = fillingOf(slot)!;
  const tree = treeOfSlot(slot, contents);
  if (!tree)
    return filling.files !== undefined && contents.tree(filling.files) === 'missing' ? (
      <p className="text-stop">
        These files are not stored here any more. Undo, or add them again in the designer’s finding.
      </p>
    ) : (
      <p className="text-soft">Reading the list of files …</p>
    );
  const folder = folderAt(tree, path);
  const children = folder.children;
  const pathOf = (node: Node) => (folder.path === '' ? node.name : `${folder.path}/${node.name}`);
  const node = children.find((one) => pathOf(one) === selected);
  const onDrop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void droppedFiles(event.dataTransfer).then((files) => work.add(files, folder.path));
  };
  const setTimes = (times: 'layout' | 'files') => {
    const patch = times === 'files' ? { times: 'of the files' as const } : { times: undefined };
    const edit = slot.fileSystem
      ? { fileSystem: { ...slot.fileSystem, ...patch } }
      : slot.content?.kind === 'exfat'
        ? { content: { ...slot.content, ...patch } }
        : {};
    commit({ do: 'change slot', id: slot.id, patch: JSON.parse(JSON.stringify(edit)) as typeof edit });
  };
  return (
    <div
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={onDrop}
      className={`min-h-[300px] rounded-[6px] ${over ? 'bg-selected' : ''}`}
    >
      <RoomLine placed={placed} tree={tree} />
      <div className="flex items-center gap-3">
        <Crumbs path={folder.path} go={setPath} />
        <span className="flex-1" />
        <span className="text-soft">Times</span>
        <Choice
          label="Times"
          dense
          value={filling.times === undefined ? 'layout' : 'files'}
          options={[
            { value: 'layout', text: 'of the layout' },
            { value: 'files', text: 'of the files' },
          ]}
          onChange={setTimes}
        />
      </div>
      <Bringing work={work} path={folder.path} openFromImage={() => setFromImage(true)} />
      {fromImage && <FromImage take={(from) => work.take(from, folder.path)} close={() => setFromImage(false)} />}
      <Messages work={work} under={folder.path} />
      {children.length === 0 ? (
        <p className="mt-6 rounded-[6px] border border-dashed border-edge px-4 py-8 text-center text-soft">
          Drop files or a folder here. They lie in the volume one behind the other, in the order of this list, each in
          one piece. What is stored here can be up to 64 GiB at a time.
        </p>
      ) : (
        <FolderTable
          key={folder.path}
          path={folder.path}
          selected={selected}
          onSelect={setSelected}
          onOpen={(next) => {
            setPath(next);
            setSelected(undefined);
          }}
          isFat={slot.fileSystem !== undefined}
        >
          {children}
        </FolderTable>
      )}
      {node && selected !== undefined && (
        <Selected node={node} path={selected} siblings={children.map(pathOf)} work={work} onGone={setSelected} />
      )}
    </div>
  );
}
