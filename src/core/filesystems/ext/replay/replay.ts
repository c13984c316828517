/**
 * A volume whose machine stopped in the middle of a write, as a kernel would see it once it has mounted it: the journal is
 * replayed, then what was to be deleted is, all in memory. Nothing is written to the source.
 */
import type { BlockSource } from '../../../bytes/blocks';
import { decode } from '../../../bytes/record';
import { grouped } from '../../../quantity/units';
import { BrokenChain } from '../../volume';
import { checksumsOf } from '../checksums';
import { FEATURE_BITS, hasFeature } from '../feature-bits';
import { SUPERBLOCK_AT } from '../numbers';
import { LONG_GROUP, SHORT_GROUP, SUPERBLOCK } from '../records';
import { descriptorAt, type ExtHead, hasJournalToReplay, readExtHead } from '../read/head';
import { Inodes } from '../read/inodes';
import { JournalBroken, journalSum, readLog } from './log';
import { workOff } from './orphans';
import { JOURNAL_SUPERBLOCK } from './records';
import { PatchedView, type Patches } from './view';

/** What was worked off of a volume, and what could not be. Plain data: threads hand it on. */
export interface Replay {
  readonly patches: Patches;
  /** Transactions of the journal. */
  readonly transactions: number;
  /** Blocks of the volume that stand in them. */
  readonly blocks: number;
  readonly deleted: number;
  readonly shortened: number;
  /** Commits of the fast kind were there: they are not replayed. */
  readonly hasFast: boolean;
  /** Why the journal cannot be replayed; a kernel would not mount the volume. */
  readonly refused: string | undefined;
  readonly troubles: readonly string[];
}

/** State of a volume that was let go of cleanly. */
const CLEAN = 0x1;
const { needs_recovery: RECOVER } = FEATURE_BITS.incompatible;
const { orphan_present: FILE_IN_USE } = FEATURE_BITS.readOnly;
const MOST_GROUPS = 1_000_000;

/** True where something is to be worked off before a volume is as a kernel sees it. */
function isUnfinished(head: ExtHead): boolean {
  const { superblock } = head;
  return hasJournalToReplay(head) || superblock.lastOrphan !== 0 || hasFeature(superblock, 'orphan_present');
}

const NOTHING: Replay = {
  ...{ patches: new Map(), transactions: 0, blocks: 0, deleted: 0, shortened: 0, hasFast: false },
  ...{ refused: undefined, troubles: [] },
};

/** The superblock of a volume that was mounted and let go of: its counts are those of its groups. */
async function settledSuperblock(view: BlockSource, base: number, head: ExtHead): Promise<Uint8Array> {
  const bytes = new Uint8Array(await view.read(base + SUPERBLOCK_AT, SUPERBLOCK.length));
  const { incompatible, readOnly, state } = decode(SUPERBLOCK, bytes);
  const fields = new DataView(bytes.buffer);
  const at = SUPERBLOCK.fields;
  fields.setUint32(at.incompatible.offset, incompatible & ~RECOVER, true);
  fields.setUint32(at.readOnly.offset, readOnly & ~FILE_IN_USE, true);
  fields.setUint16(at.state.offset, state | CLEAN, true);
  fields.setUint32(at.lastOrphan.offset, 0, true);
  let [freeBlocks, freeInodes] = [0, 0];
  const isLong = head.descriptorBytes >= 64;
  for (let group = 0; group < Math.min(head.groups, MOST_GROUPS); group++) {
    const place = base + descriptorAt(head, group);
    if (place + head.descriptorBytes > view.size) break;
    const descriptor = await view.read(place, head.descriptorBytes);
    const short = decode(SHORT_GROUP, descriptor);
    const long = isLong ? decode(LONG_GROUP, descriptor) : undefined;
    freeBlocks += short.freeBlocks + (long?.freeBlocksHigh ?? 0) * 0x10000;
    freeInodes += short.freeInodes + (long?.freeInodesHigh ?? 0) * 0x10000;
  }
  fields.setUint32(at.freeBlocksLow.offset, freeBlocks % 2 ** 32, true);
  if (head.isLong) fields.setUint32(at.freeBlocksHigh.offset, Math.floor(freeBlocks / 2 ** 32), true);
  fields.setUint32(at.freeInodes.offset, freeInodes % 2 ** 32, true);
  const sums = checksumsOf(head.superblock);
  if (sums.isOn) fields.setUint32(at.checksum.offset, sums.ofSuperblock(bytes), true);
  return bytes;
}

/** Replays the journal into a view. Throws a JournalBroken where that cannot be. */
async function replayJournal(source: BlockSource, base: number, head: ExtHead, view: PatchedView) {
  const { superblock, block } = head;
  if (!hasFeature(superblock, 'has_journal') || superblock.journalInode === 0)
    throw new JournalBroken('it lies on another device');
  const inodes = new Inodes(source, base, head);
  const log = await readLog(inodes, await inodes.at(superblock.journalInode));
  for (const [at, patch] of log.patches) view.set(at, patch);
  // The journal of a volume that was let go of is empty.
  const bytes = new Uint8Array(await view.read(base + log.at * block, JOURNAL_SUPERBLOCK.length));
  const fields = new DataView(bytes.buffer);
  fields.setUint32(JOURNAL_SUPERBLOCK.fields.start.offset, 0);
  fields.setUint32(JOURNAL_SUPERBLOCK.fields.sequence.offset, (log.next + 1) >>> 0);
  if (log.superblock.checksumType !== 0) fields.setUint32(JOURNAL_SUPERBLOCK.fields.checksum.offset, journalSum(bytes));
  await view.put(log.at * block, bytes);
  return { transactions: log.transactions, blocks: log.patches.size, hasFast: log.hasFast };
}

/** What is to be worked off of a volume that begins `base` bytes into the source. */
async function replayOf(source: BlockSource, base: number, head: ExtHead): Promise<Replay> {
  if (!isUnfinished(head)) return NOTHING;
  const view = new PatchedView(source, base, head.block);
  try {
    const replayed = hasJournalToReplay(head) ? await replayJournal(source, base, head, view) : {};
    const found = await readExtHead(view, base);
    if (!found || 'refused' in found) return { ...NOTHING, refused: 'what it holds is no superblock that can be read' };
    const orphans = await workOff(new Inodes(view, base, found.head), view, checksumsOf(found.head.superblock));
    await view.put(SUPERBLOCK_AT, await settledSuperblock(view, base, found.head));
    return { ...NOTHING, ...replayed, ...orphans, patches: view.patches };
  } catch (error) {
    if (error instanceof JournalBroken || error instanceof BrokenChain) return { ...NOTHING, refused: error.message };
    throw error;
  }
}

/** The volume as it is once that is worked off. */
function replayedView(
  source: BlockSource,
  base: number,
  head: ExtHead,
  { patches }: Replay,
): BlockSource | PatchedView {
  return patches.size === 0 ? source : new PatchedView(source, base, head.block, patches);
}

/** A volume as a kernel would see it: its inodes, read with what was worked off, and what that was. */
export interface Settled {
  readonly view: BlockSource;
  /** True where bytes of the view are not those of the source. */
  readonly isChanged: (offset: number, length: number) => boolean;
  /** The same view of another source with the same bytes. */
  readonly settle: (source: BlockSource) => BlockSource;
  readonly inodes: Inodes;
  readonly replay: Replay;
  /** What its superblock says as it lies. */
  readonly before: ExtHead;
}

/**
 * The volume that begins `base` bytes into the source, with its journal replayed; or why it cannot be read. Undefined where
 * there is no ext. What was found to be worked off before need not be found again.
 */
export async function settled(
  source: BlockSource,
  base: number,
  known?: Replay,
): Promise<Settled | { readonly refused: string } | undefined> {
  const found = await readExtHead(source, base);
  if (!found || 'refused' in found) return found;
  const replay = known ?? (await replayOf(source, base, found.head));
  const settle = (other: BlockSource) => replayedView(other, base, found.head, replay);
  const view = settle(source);
  // What the superblock says may stand in the journal.
  const after = await readExtHead(view, base);
  if (!after || 'refused' in after) return after;
  const isChanged = (offset: number, length: number) => view instanceof PatchedView && view.isPatched(offset, length);
  return { view, isChanged, settle, inodes: new Inodes(view, base, after.head), replay, before: found.head };
}

const many = (count: number, one: string, more: string) => (count === 1 ? `one ${one}` : `${grouped(count)} ${more}`);

/** What was worked off, in sentences. */
export function replayWords(replay: Replay): string[] {
  const { transactions, blocks, deleted, shortened, hasFast, refused, troubles } = replay;
  if (refused !== undefined)
    return [`Its journal cannot be replayed: ${refused}. What is shown is what stands there, and may be torn.`];
  const words: string[] = [];
  if (transactions > 0)
    words.push(
      `Its journal was replayed in memory: ${many(transactions, 'transaction', 'transactions')} with ${many(blocks, 'block', 'blocks')}.`,
    );
  const done = [
    ...(deleted > 0 ? [`${many(deleted, 'file', 'files')} deleted`] : []),
    ...(shortened > 0 ? [`${many(shortened, 'file', 'files')} made shorter`] : []),
  ];
  if (done.length > 0) words.push(`What was left to do is done: ${done.join(', ')}.`);
  if (hasFast)
    words.push(
      'It has fast commits behind its journal: these are not replayed, so what was written last is not shown.',
    );
  words.push(...troubles.map((one) => `Not everything that was left to do could be done: ${one}.`));
  if (words.length > 0) words.push('The image stays as it is.');
  return words;
}
