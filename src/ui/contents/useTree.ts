'use client';

import { kindOf } from '@/core/filesystems/kinds';
import { useEffect, useState } from 'react';
import type { TreeChange, TreeView } from '@/contract/contents';
import type { PartitionSlot } from '@/core/layout/document';
import { counted } from '@/core/quantity/units';
import { type Answer, type CallError, changeTree, contentUrl, getTree, takeFromVolume } from '../api';
import { useDesigner, useDesignerNow } from '../designer/state/context';
import { send, type Sending } from '../upload/upload';
import { follow, showsItself } from '../upload/uploads';
import { changeFilesOf } from './files-of';
import { type Dropped, tarBlob } from './tar';

/** Names of files that hold others, of which it is asked whether to unpack them. */
const ARCHIVE = /\.(zip|tar|tgz|tar\.gz)$/i;

/** Something that holds files. */
export type Waiting =
  | { readonly kind: 'archive'; readonly name: string; readonly file: File }
  | { readonly kind: 'folder'; readonly name: string; readonly files: readonly Dropped[] };

/** What waits for a word: a single archive, or a single folder with all that is in it. */
function waitingFor(files: readonly Dropped[]): Waiting | undefined {
  const [first] = files;
  if (!first) return undefined;
  if (files.length === 1 && ARCHIVE.test(first.path) && first.file instanceof File)
    return { kind: 'archive', name: first.path, file: first.file };
  const top = first.path.slice(0, first.path.indexOf('/') + 1);
  if (top === '' || !files.every((one) => one.path.startsWith(top))) return undefined;
  return { kind: 'folder', name: top.slice(0, -1), files };
}

const NOTHING_IN_IT: CallError = {
  status: 0,
  code: 'nothing-in-it',
  sentence: 'There is no file in it. An empty folder is made with the button for it.',
};
const UNREADABLE: CallError = {
  status: 0,
  code: 'unreadable',
  sentence: 'The browser could not read all of it: a file may be gone, or closed to you. Nothing was sent.',
};

export interface TreeWork {
  readonly sending: Sending | undefined;
  readonly refused: CallError | undefined;
  /** What an archive or volume had that was not taken. */
  readonly leftOut: TreeView['leftOut'];
  /** Files that had to go for what came in. */
  readonly replaced: readonly string[];
  /** An archive or a folder that waits for the word whether it goes in itself, or what is in it. */
  readonly waiting: Waiting | undefined;
  /** Takes what was chosen or dropped, once the browser has looked into it. */
  readonly add: (files: readonly Dropped[] | Promise<readonly Dropped[]>, under: string) => Promise<void>;
  readonly putInside: (under: string, leaveOut: boolean) => Promise<void>;
  readonly putWhole: (under: string) => Promise<void>;
  readonly take: (from: { of: string; partition: string; path: string }, under: string) => Promise<void>;
  readonly change: (change: TreeChange) => Promise<boolean>;
  readonly dismiss: () => void;
}

/** The slot as it is now, with a way to change its files: one change after the other, whatever page it ends on. */
function useFilesOf(slot: PartitionSlot) {
  const now = useDesignerNow();
  const changeFiles = (work: (into: string | undefined) => Promise<Answer<TreeView>>) =>
    changeFilesOf(now, slot.id, work);
  /** Puts in what came in by itself: what else was changed meanwhile stays. */
  const putIn = (added: TreeView): Promise<Answer<TreeView>> =>
    changeFiles(async (into) => {
      if (into === undefined) return { ok: true, value: added };
      if (added.sha256 === null) return getTree(into);
      const merged = await changeTree(into, { do: 'merge', from: added.sha256 });
      return merged.ok ? { ok: true, value: { ...merged.value, leftOut: added.leftOut } } : merged;
    });
  return { changeFiles, putIn };
}

/** Everything that changes the files of a volume: each a revision of the layout, so that it can be undone. */
export function useTree(slot: PartitionSlot): TreeWork {
  const layoutName = useDesigner((state) => state.document.name);
  const [sending, setSending] = useState<Sending>();
  const [uploadId, setUploadId] = useState<string>();
  const [refused, setRefused] = useState<CallError>();
  const [leftOut, setLeftOut] = useState<TreeView['leftOut']>([]);
  const [replaced, setReplaced] = useState<readonly string[]>([]);
  const [waiting, setWaiting] = useState<Waiting>();
  const { changeFiles, putIn } = useFilesOf(slot);
  useEffect(() => (uploadId === undefined ? undefined : showsItself(uploadId)), [uploadId]);

  const settle = (answer: Answer<TreeView>): boolean => {
    setRefused(answer.ok ? undefined : answer.error);
    if (!answer.ok) return false;
    setLeftOut(answer.value.leftOut);
    setReplaced(answer.value.replaced ?? []);
    return true;
  };
  /** Sends something that goes into the slot when all of it came, also where this page is left meanwhile. */
  const upload = async (url: string, body: Blob, name: string): Promise<boolean> => {
    const followed = follow(`“${name}” for ${slot.name} of ${layoutName}`);
    setUploadId(followed.id);
    const sent = await send<TreeView>(url, body, name, (state) => {
      setSending(state);
      followed.progress(state);
    });
    const answer = sent.ok ? await putIn(sent.value) : sent;
    followed.over(answer.ok, answer.ok ? 'It is in.' : answer.error.sentence);
    return settle(answer);
  };
  const sendFiles = async (files: readonly Dropped[], under: string) => {
    const [first] = files;
    if (!first) return;
    const name = files.length === 1 ? first.path : counted(files.length, 'file');
    await upload(contentUrl('folder', { under }), tarBlob(files), name);
  };
  return {
    sending,
    refused,
    leftOut,
    replaced,
    waiting,
    add: async (given, under) => {
      const files = await Promise.resolve(given).catch(() => undefined);
      if (!files || files.length === 0) {
        setRefused(files ? NOTHING_IN_IT : UNREADABLE);
        return;
      }
      const asked = waitingFor(files);
      if (asked) setWaiting(asked);
      else await sendFiles(files, under);
    },
    putInside: async (under, leaveOut) => {
      if (waiting?.kind === 'folder') {
        const cut = waiting.name.length + 1;
        await sendFiles(
          waiting.files.map(({ path, file }) => ({ path: path.slice(cut), file })),
          under,
        );
        setWaiting(undefined);
      }
      if (waiting?.kind !== 'archive') return;
      const url = contentUrl('archive', {
        under,
        leaveOut: leaveOut ? 'yes' : undefined,
        keepsAll: slot.content && kindOf(slot.content).keepsAll ? 'yes' : undefined,
      });
      const isDone = await upload(url, waiting.file, waiting.name);
      if (isDone) setWaiting(undefined);
    },
    putWhole: async (under) => {
      if (waiting?.kind === 'folder') await sendFiles(waiting.files, under);
      if (waiting?.kind === 'archive') await sendFiles([{ path: waiting.name, file: waiting.file }], under);
      setWaiting(undefined);
    },
    take: async (from, under) => {
      const keepsAll = slot.content !== undefined && kindOf(slot.content).keepsAll === true;
      const taken = await takeFromVolume({ ...from, under, ...(keepsAll && { keepsAll }) });
      settle(taken.ok ? await putIn(taken.value) : taken);
    },
    change: async (change) => settle(await changeFiles((into) => changeTree(into, change))),
    dismiss: () => {
      setRefused(undefined);
      setLeftOut([]);
      setReplaced([]);
      setWaiting(undefined);
    },
  };
}
