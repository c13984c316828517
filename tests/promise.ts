/**
 * The promise: a layout without a stop composes, builds onto old bytes, is surveyed as it was
 * meant, holds the bytes that were supplied at the places that the document says, and a second
 * reader of tables sees the same partitions.
 */
import { createHash } from 'node:crypto';
import type { BlockSource } from '@/core/bytes/blocks';
import { compare } from '@/core/compose/compare';
import { compose } from '@/core/compose/compose';
import { madeAs } from '@/core/filesystems/kinds';
import { checkExt } from '@/core/filesystems/ext/check/check';
import { openVolume } from '@/core/filesystems/readers';
import type { Tree, TreeFile } from '@/core/filesystems/tree';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import { checkSurvey } from '@/core/findings/survey/check';
import { fillingOf, treeOfSlot } from '@/core/layout/contents';
import { type Contents } from '@/core/filesystems/supplied';
import type { Layout } from '@/core/layout/document';
import type { StoredPart } from '@/core/filesystems/fields';
import { placeWritten } from '@/core/naming/written';
import { isEntered, isPartition, isRaw, type PlacedPartition, type Placement } from '@/core/placement/placement';
import { surveyMedium } from '@/core/survey/survey';
import { CODE_LENGTH } from '@/core/tables/mbr';
import { readStored } from './any/contents';
import { explained } from './explained';
import { byPath, treeOf } from './filled';
import { type Background, overOldBytes } from './over-noise';
import { tablesByTheBook } from './tables-by-the-book';

const same = (a: Uint8Array, b: Uint8Array): boolean => Buffer.compare(a, b) === 0;

/** Bytes that are compared at each end of what was supplied. */
const LOOK = 64 * 1024;

/** Supplied bytes at a place of the medium; zeros up to `until`. */
async function suppliedAt(
  medium: BlockSource,
  at: number,
  part: StoredPart,
  until: number,
): Promise<string | undefined> {
  const from = part.from ?? 0;
  const length = Math.max(0, Math.min(part.take ?? Infinity, part.size - from));
  for (const start of new Set([0, Math.max(0, length - LOOK)])) {
    const piece = Math.min(LOOK, length - start);
    if (piece <= 0) continue;
    const meant = await readStored({ from: part.sha256, at: from + start, length: piece });
    const found = await medium.read(at + start, piece);
    if (!same(meant, found)) return `“${part.name}” is not at byte ${at + start}`;
  }
  const behind = Math.min(LOOK, until - at - length);
  if (behind > 0 && (await medium.read(at + length, behind)).some((byte) => byte !== 0))
    return `behind “${part.name}” old bytes shine through`;
  return undefined;
}

/** More groups than these are not checked one by one. */
const MANY_GROUPS = 2000;

/** What is wrong with an ext volume: what the checker finds, or a file that is not there as it was meant. */
async function extAmiss(
  { span, made }: PlacedPartition,
  meant: Tree,
  medium: BlockSource,
): Promise<string | undefined> {
  const ext = madeAs({ made }, 'ext');
  // What is known of one group is known of thousands: of the largest only the superblock is compared.
  if (ext?.ok && ext.value.groups > MANY_GROUPS) return undefined;
  const { faults, entries, volume } = await checkExt(medium, span.start, span.end - span.start);
  if (faults.length > 0) return JSON.stringify(faults.slice(0, 2));
  const found = new Map(entries.map((entry) => [entry.path, entry]));
  for (const entry of meant) {
    const there = found.get(entry.path);
    if (!there) return `“${entry.path}” is missing`;
    if (entry.kind !== 'file') continue;
    if (there.inode.size !== entry.size) return `“${entry.path}” has ${there.inode.size} bytes`;
    const [run] = there.inode.runs;
    if (!run || entry.size > 2 ** 20) continue;
    const at = span.start + run.physical * volume!.block;
    const length = Math.min(entry.size, run.count * volume!.block);
    const bytes = (await contentOf(entry, entry.size)).subarray(0, length);
    if (!same(bytes, await medium.read(at, length))) return `“${entry.path}” has other bytes`;
  }
  return undefined;
}

/** Bytes of a file: those that were made for it, or what is stored. */
const contentOf = async (file: TreeFile, length: number) =>
  file.made ?? (await readStored({ from: file.sha256, at: 0, length }));

async function filesOf(placement: Placement, medium: BlockSource): Promise<string | undefined> {
  for (const one of placement.placed.filter(isPartition)) {
    const filling = fillingOf(one.slot);
    const meant = treeOfSlot(one.slot, placement.contents) ?? [];
    if (!filling || meant.length === 0) continue;
    if (filling.kind === 'ext') {
      const wrong = await extAmiss(one, meant, medium);
      if (wrong) return `${one.slot.name}: ${wrong}`;
      continue;
    }
    if (meant.some((entry) => entry.kind === 'file' && entry.size > 2 ** 20)) continue;
    const volume = await openVolume(medium, one.span.start);
    if (!volume) return `${one.slot.name} cannot be browsed`;
    const { tree, troubles } = await treeOf(volume, medium);
    if (troubles.length > 0) return troubles[0];
    const plain = (entries: typeof meant) =>
      byPath(entries)
        .filter((entry) => entry.kind === 'file')
        .map(({ path, ...entry }) => [path, 'size' in entry && entry.size]);
    if (JSON.stringify(plain(tree)) !== JSON.stringify(plain(meant)))
      return `${one.slot.name} holds ${JSON.stringify(plain(tree)).slice(0, 300)}, meant were ${JSON.stringify(plain(meant)).slice(0, 300)}`;
    for (const entry of meant) {
      if (entry.kind !== 'file') continue;
      const bytes = await contentOf(entry, entry.size);
      const found = tree.find(({ path }) => path === entry.path) as { sha256: string };
      if (createHash('sha256').update(bytes).digest('hex') !== found.sha256) return `“${entry.path}” has other bytes`;
    }
  }
  return undefined;
}

async function bytesOf(placement: Placement, medium: BlockSource): Promise<string | undefined> {
  const { table } = placement.layout;
  if (table.kind !== 'none' && table.code) {
    const part = { ...table.code, take: Math.min(CODE_LENGTH, table.code.size) };
    const trouble = await suppliedAt(medium, 0, part, part.take);
    if (trouble) return `code of sector 0: ${trouble}`;
  }
  for (const one of placement.placed) {
    if (isRaw(one)) {
      const nothing = { sha256: '', name: 'nothing', size: 0 };
      const trouble = await suppliedAt(medium, one.span.start, one.slot.blob ?? nothing, one.span.end);
      if (trouble) return `${one.slot.name}: ${trouble}`;
    }
    if (!isPartition(one) || !one.slot.content || !('sha256' in one.slot.content)) continue;
    const { content } = one.slot;
    if (content.kind === 'image' && content.hidden) continue;
    const trouble = await suppliedAt(medium, one.span.start, content, one.span.start + content.size);
    if (trouble) return `${one.slot.name}: ${trouble}`;
  }
  return undefined;
}

async function bookOf(placement: Placement, medium: BlockSource, hasVolume: boolean): Promise<string | undefined> {
  const book = await tablesByTheBook(medium, placement.sectorSize, hasVolume);
  const isFree = placement.layout.slots.some((slot) => slot.kind === 'partition' && slot.content?.kind === 'file');
  if (placement.layout.table.kind === 'none' && isFree) return undefined;
  if (book.table !== placement.layout.table.kind) return `the book sees the table ${book.table}`;
  const meant = placement.placed.filter(isEntered).map((one) => ({
    number: one.entry.number,
    start: one.start,
    sectors: one.sectors,
    type: one.entry.type,
    id: one.entry.id,
  }));
  const found = book.partitions.map(({ number, start, sectors, type, id }) => ({ number, start, sectors, type, id }));
  const order = (a: { number: number }, b: { number: number }) => a.number - b.number;
  const [a, b] = [JSON.stringify(meant.sort(order)), JSON.stringify(found.sort(order))];
  return a === b ? undefined : `the book sees ${b.slice(0, 400)}, meant were ${a.slice(0, 400)}`;
}

/** What came of a layout: it was stopped, or it was built and everything agreed. */
export type Kept = 'stopped' | 'built';

/** Holds one layout to the promise; throws an Error that says how it is broken. */
export async function keepsPromise(layout: Layout, contents: Contents, background: Background): Promise<Kept> {
  const placement = placeWritten(layout, contents);
  const findings = check(placement);
  if (stopsAmong(findings).length > 0) return 'stopped';
  const ranges = compose(placement);
  const medium = overOldBytes(
    placement.medium.capacity,
    ranges.map(({ extent }) => extent),
    readStored,
    background,
  );
  const survey = await surveyMedium(medium, { sectorSize: placement.sectorSize, isFull: true });
  const wrong = compare(placement, survey).find((one) => !one.agrees);
  if (wrong) throw new Error(`${wrong.slot ?? 'table'}: ${wrong.fact}: meant ${wrong.meant}, found ${wrong.found}`);
  const broken =
    (await bytesOf(placement, medium)) ??
    (await filesOf(placement, medium)) ??
    (await bookOf(
      placement,
      medium,
      survey.partitions.some((one) => one.kind === 'whole medium'),
    ));
  if (broken) throw new Error(broken);
  for (const finding of checkSurvey(survey)) {
    if (!explained(finding, placement, findings, survey))
      throw new Error(`not explained: ${finding.rule}: ${finding.sentence}`);
  }
  return 'built';
}
