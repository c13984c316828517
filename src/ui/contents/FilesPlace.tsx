'use client';

import { writerOf } from '@/core/filesystems/writers';
import Link from 'next/link';
import type { Fillable } from '@/core/filesystems/kinds';
import { useState } from 'react';
import { pathIn } from '@/core/filesystems/allocation';
import { type TreeNode, rootOf, type Tree, treeSums } from '@/core/filesystems/tree';
import { fillingOf, storedTreeOf, treeOfSlot } from '@/core/layout/contents';
import type { PartitionSlot } from '@/core/layout/document';
import { madeIn } from '@/core/filesystems/made-files';
import type { PlacedPartition } from '@/core/placement/placement';
import { roomOf } from '@/core/placement/volumes';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import { useDesigner } from '../designer/state/context';
import { Button, buttonClass } from '../kit/Button';
import { Choice } from '../kit/Choice';
import { SendingProgress } from '../upload/UploadProgress';
import { useDrop } from '../kit/useDrop';
import { Bringing } from './Bringing';
import { Crumbs } from './Crumbs';
import { kindOf } from '@/core/filesystems/kinds';
import { FolderTable } from './FolderTable';
import { FromImage } from './FromImage';
import { SelectedEntry } from './SelectedEntry';
import { droppedFiles } from './tar';
import { type TreeWork, useTree } from './useTree';

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

/** How the room is used: clusters and bytes, and what does not fit. */
function RoomLine({ placed, tree }: { readonly placed: PlacedPartition; readonly tree: Tree }) {
  const placement = useDesigner((state) => state.placement);
  const room = roomOf(placed, placement);
  const { files, folders, others, bytes } = treeSums(tree);
  const { content } = placed.slot;
  const unit = (content && kindOf(content).clusters?.field) ?? 'cluster';
  if (!room) return <p className="text-stop">No such volume can be made here; the designer says why.</p>;
  const share = Math.min(1, room.used / room.clusters);
  const isOver = room.used > room.clusters;
  return (
    <div className="mb-2">
      <p>
        {counted(files, 'file')}
        {others > 0 && ` and ${counted(others, 'link or device', 'links and devices')}`} in {counted(folders, 'folder')}
        , {inBoth(bytes)}; {grouped(room.used)} of {grouped(room.clusters)} {unit}s of {inBinary(room.clusterBytes)}{' '}
        taken, {inBinary(room.slack)} lost in last ones
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

/** A list of paths, each with what there is to say of it. */
function UploadMessage({
  title,
  lines,
}: {
  readonly title: string;
  readonly lines: readonly { readonly path: string; readonly why: string }[];
}) {
  if (lines.length === 0) return null;
  return (
    <details className="my-1" open>
      <summary className="cursor-pointer">{title}</summary>
      <ul className="max-h-32 overflow-y-auto text-soft">
        {lines.slice(0, 200).map(({ path, why }, i) => (
          <li key={i}>
            <span className="font-mono text-sm">{path}</span> {why}
          </li>
        ))}
      </ul>
    </details>
  );
}

function Messages({ work, under }: { readonly work: TreeWork; readonly under: string }) {
  const { refused, leftOut, replaced, waiting, sending } = work;
  const out = leftOut.filter(({ isFact }) => !isFact);
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
      <UploadMessage title={`${grouped(out.length)} left out`} lines={out} />
      <UploadMessage title="Not kept" lines={leftOut.filter(({ isFact }) => isFact)} />
      <UploadMessage
        title={`${counted(replaced.length, 'file')} replaced by what came in; undo brings ${replaced.length === 1 ? 'it' : 'them'} back`}
        lines={replaced.map((path) => ({ path, why: '' }))}
      />
    </>
  );
}

interface BarProps {
  readonly slot: PartitionSlot;
  readonly filling: Fillable;
  readonly path: string;
  readonly go: (path: string) => void;
}

/** The folder that is shown, the way to the study, and whose times the files have. */
function VolumeBar({ slot, filling, path, go }: BarProps) {
  const commit = useDesigner((state) => state.commit);
  const layoutId = useDesigner((state) => state.view.id);
  const setTimes = (times: 'layout' | 'files') => {
    const { times: _, ...rest } = filling;
    const content = times === 'files' ? { ...rest, times: 'of the files' as const } : rest;
    commit({ do: 'change slot', id: slot.id, patch: { content } });
  };
  return (
    <div className="flex items-center gap-3">
      <Crumbs label="Folder" path={path} go={go} />
      <span className="flex-1" />
      {filling.kind !== 'exfat' && (
        <Link className={buttonClass()} href={`/layouts/${layoutId}/study?slot=${slot.id}`}>
          Study of its {kindOf(filling).clusters?.field}s
        </Link>
      )}
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
  );
}

/** The files of a volume: what goes in, in which order, and how much room it takes. */
export function FilesPlace({ placed }: { readonly placed: PlacedPartition & { readonly slot: PartitionSlot } }) {
  const { slot } = placed;
  const contents = useDesigner((state) => state.placement.contents);
  const work = useTree(slot);
  const [path, setPath] = useState('');
  const [selected, setSelected] = useState<string>();
  const [fromImage, setFromImage] = useState(false);
  const filling = fillingOf(slot)!;
  const isFat = filling.kind === 'fat';
  const rules = writerOf(filling).names!;
  const tree = storedTreeOf(slot, contents);
  const { isOver, handlers } = useDrop(
    (transfer) => void work.add(droppedFiles(transfer), folderAt(tree ?? [], path).path),
  );
  if (!tree)
    return filling.files !== undefined && contents.tree(filling.files) === 'missing' ? (
      <p className="text-stop">
        These files are not stored here any more. Undo, or add them again in the designer’s finding.
      </p>
    ) : (
      <p className="text-soft">Reading the list of files …</p>
    );
  const made = madeIn(treeOfSlot(slot, contents) ?? tree);
  const folder = folderAt(tree, path);
  const children = folder.children;
  const pathOf = (node: TreeNode) => pathIn(folder, node.name);
  const node = children.find((one) => pathOf(one) === selected);
  const open = (next: string) => {
    setPath(next);
    setSelected(undefined);
  };
  return (
    <div {...handlers} className={`min-h-[300px] rounded-[6px] ${isOver ? 'bg-selected' : ''}`}>
      <RoomLine placed={placed} tree={tree} />
      <VolumeBar slot={slot} filling={filling} path={folder.path} go={open} />
      <Bringing work={work} path={folder.path} rules={rules} openFromImage={() => setFromImage(true)} />
      {fromImage && <FromImage take={work.take} under={folder.path} close={() => setFromImage(false)} />}
      <Messages work={work} under={folder.path} />
      {made.length > 0 && (
        <p className="my-1 text-sm text-soft">
          Written at each build from the layout:{' '}
          <span className="font-mono">{made.map((one) => one.path).join(', ')}</span>
        </p>
      )}
      {children.length === 0 ? (
        <p className="mt-6 rounded-[6px] border border-dashed border-edge px-4 py-8 text-center text-soft">
          Drop files or a folder here. They lie in the volume one behind the other, in the order of this list, each in
          one piece{slot.content?.kind === 'ext' && ' where its groups allow that'}. What is stored here can be up to 64
          GiB at a time.
        </p>
      ) : (
        <FolderTable
          key={folder.path}
          path={folder.path}
          selected={selected}
          onSelect={setSelected}
          onOpen={open}
          onMove={(from, before) =>
            void work.change({ do: 'move', path: from, ...(before !== undefined && { before }) })
          }
          onRemove={(gone) =>
            void work.change({ do: 'remove', path: gone }).then((isDone) => isDone && setSelected(undefined))
          }
          rules={rules}
          isFat={isFat}
          keepsAll={kindOf(filling).keepsAll === true}
        >
          {children}
        </FolderTable>
      )}
      {node && selected !== undefined && (
        <SelectedEntry
          node={node}
          path={selected}
          siblings={children.map(pathOf)}
          rules={rules}
          keepsAll={kindOf(filling).keepsAll === true}
          work={work}
          onGone={setSelected}
        />
      )}
    </div>
  );
}
