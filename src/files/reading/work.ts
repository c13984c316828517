/** Carrying out orders to read, each within its budget; in whatever thread that is. */
import { createHash } from 'node:crypto';
import { read, readSync } from 'node:fs';
import { setImmediate as otherWork } from 'node:timers/promises';
import { promisify } from 'node:util';
import { type BlockSource, SourceShrank } from '@/core/bytes/blocks';
import { budgeted } from '@/core/bytes/budget';
import { MIB } from '@/core/quantity/units';
import { checkWhole } from '@/core/filesystems/ext/check/whole';
import { orderRepack } from '@/core/filesystems/ext/repack/order';
import { minimaOf, repackable } from '@/core/filesystems/ext/repack/repack';
import type { Replay } from '@/core/filesystems/ext/replay/replay';
import { openVolume, unfinished } from '@/core/filesystems/readers';
import { BrokenChain, entryAt } from '@/core/filesystems/volume';
import { fail, ok } from '@/core/quantity/result';
import { surveyMedium } from '@/core/survey/survey';
import { positionSource } from '../file-source';
import { NotSound, StillFaulty, writeRepacked } from '../repacked-image';
import { after } from './deadline';
import { DEADLINE, NoLongerAsked, type OpenFile, type OrderKind, type Orders, type ReadProgress } from './orders';

const readAt = promisify(read);

/** What may be read for a folder or a path: the largest folders that are listed take a tenth of it. */
const FOLDER_LIMITS = { bytes: 512 * MIB, reads: 500_000 };

/** Milliseconds after which a thread in the background looks what it is told. */
const TURN = 10;
let turned = 0;

/**
 * Reads in this very thread: the threads that read for all others do not stand back. Now and then it is looked whether
 * somebody still waits.
 */
async function readHere(
  descriptor: number,
  buffer: Uint8Array,
  offset: number,
  length: number,
  position: number,
): Promise<{ bytesRead: number }> {
  if (performance.now() - turned > TURN) {
    await otherWork();
    turned = performance.now();
  }
  return { bytesRead: readSync(descriptor, buffer, offset, length, position) };
}

/** The bytes of an open file, as long as somebody waits for what comes of them. */
function sourceOf({ descriptor, size }: OpenFile, isWanted: () => boolean, isBackground: boolean): BlockSource {
  const reads = isBackground ? readHere : readAt;
  return positionSource((buffer, offset, length, position) => {
    if (!isWanted()) return Promise.reject(new NoLongerAsked('nobody waits for it any more'));
    return reads(descriptor, buffer, offset, length, position);
  }, size);
}

type Worker<K extends OrderKind> = (
  source: BlockSource,
  asked: Orders[K]['asked'],
  around: Around,
) => Promise<Orders[K]['answer']>;

/** What an order has beside what it asks. */
interface Around {
  readonly key: string;
  readonly isWanted: () => boolean;
  readonly onProgress: (progress: ReadProgress) => void;
}

/** A check that says how far it is. */
const tellingOf = (onProgress: Around['onProgress']) => ({
  onProgress: (phase: string, done: number, total: number) => onProgress({ phase, done, total }),
});

const limited = (source: BlockSource) => budgeted(source, { ...FOLDER_LIMITS, isOver: after(DEADLINE) });

/** What was found to be worked off of volumes lately: a journal is not replayed for each of their folders. */
const LATELY = 4;
const replays = new Map<string, Promise<Replay | undefined>>();

function replayAt(source: BlockSource, at: number, key: string): Promise<Replay | undefined> {
  const own = `${key} ${at}`;
  const found = replays.get(own) ?? unfinished(source, at);
  replays.delete(own);
  replays.set(own, found);
  found.catch(() => replays.delete(own));
  if (replays.size > LATELY) replays.delete(replays.keys().next().value!);
  return found;
}

/** The volume at a byte; it was there when the order was given. */
async function volumeAt(source: BlockSource, at: number, key: string) {
  const volume = await openVolume(source, at, await replayAt(source, at, key));
  if (!volume) throw new SourceShrank('there is no volume any more');
  return volume;
}

/** Lays a volume anew in a file of its own; where nobody waits for it any more, nothing of it is left. */
async function repackedInto(
  source: BlockSource,
  { from, at, available, wish, path, temporary }: Orders['repack']['asked'],
  { isWanted, onProgress }: Around,
): Promise<Orders['repack']['answer']> {
  const stop = new AbortController();
  const checkpoint = () => {
    if (!isWanted()) stop.abort(new NoLongerAsked('nobody waits for it any more'));
    stop.signal.throwIfAborted();
  };
  const order = await orderRepack(source, at, available, wish, { checkpoint, ...tellingOf(onProgress) });
  if (!order.ok) return order;
  const { free, words, leftOut } = order.value;
  try {
    const { size, written } = await writeRepacked({
      ...{ from, order: order.value, path, temporary, isNew: false, signal: stop.signal },
      onProgress(progress) {
        if (!isWanted()) stop.abort(new NoLongerAsked('nobody waits for it any more'));
        onProgress(progress);
      },
    });
    return ok({ size, written, free, words, leftOut });
  } catch (error) {
    if (error instanceof NotSound) return fail(error.refusal);
    if (error instanceof StillFaulty) return fail({ why: error.message, faults: [] });
    throw error;
  }
}

const WORK: { readonly [K in OrderKind]: Worker<K> } = {
  survey: (source, { sectorSize }) => surveyMedium(source, { sectorSize, isOver: after(DEADLINE) }),
  unfinished: (source, { at }, { key }) => replayAt(limited(source), at, key),
  check: (source, { at, available }, { onProgress }) => checkWhole(source, at, available, tellingOf(onProgress)),
  async map(source, { at, cells }, { key }) {
    try {
      return await (await volumeAt(limited(source), at, key)).map?.(cells);
    } catch (error) {
      if (error instanceof BrokenChain) return undefined;
      throw error;
    }
  },
  async minimum(source, { at }) {
    const volume = await repackable(limited(source), at);
    return volume.ok ? ok(minimaOf(volume.value)) : volume;
  },
  repack: repackedInto,
  async proposal(source, asked) {
    const proposal = await import('./changing').then((one) => one.proposal);
    return proposal(source, asked);
  },
  async alteration(source, asked) {
    const alteration = await import('./changing').then((one) => one.alteration);
    return alteration(source, asked);
  },
  digest: async (source, _, { onProgress }) => {
    const hash = createHash('sha256');
    const lent = Buffer.allocUnsafeSlow(MIB);
    for (let at = 0; at < source.size; at += MIB) {
      hash.update(await source.read(at, Math.min(MIB, source.size - at), lent));
      onProgress({ phase: 'summing', done: Math.min(source.size, at + MIB), total: source.size });
    }
    return hash.digest('hex');
  },
  folder: async (source, { at, folder }, { key }) => (await volumeAt(limited(source), at, key)).list(folder),
  entry: async (source, { at, path }, { key }) => entryAt(await volumeAt(limited(source), at, key), path),
};

/** Carries out an order, in the background or for somebody who waits for it. Rejects with a NoLongerAsked, BudgetSpent or SourceShrank, or with what the system refused. */
export function carryOut<K extends OrderKind>(
  kind: K,
  file: OpenFile,
  asked: Orders[K]['asked'],
  isWanted: () => boolean,
  onProgress: (progress: ReadProgress) => void,
  isBackground: boolean,
): Promise<Orders[K]['answer']> {
  return WORK[kind](sourceOf(file, isWanted, isBackground), asked, { key: file.key, isWanted, onProgress });
}
