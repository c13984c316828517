/**
 * Placing: from a layout to sectors.
 *
 * Slots are placed in the order of the document. Raw ranges stand where they say and cut the
 * medium into runs; the slots between two of them share the space between them. Within a run
 * each slot starts on the next multiple of the grain; exact sizes are kept to the sector; what
 * is left is divided among the slots that ask for the rest. See docs/placement.md.
 */
import { fatGeometry, type FatQuestion } from '../filesystems/fat/geometry';
import type { FreeSlot, Layout, PartitionSlot, RawSlot } from '../layout/document';
import { partitionGuid } from '../layout/edits';
import { chosenGrain, exactBytes, mediumOf } from '../layout/medium-spec';
import { grainFor } from '../medium/grain';
import { isPlainFlash } from '../medium/medium';
import { alignUp } from '../quantity/integers';
import { amountInSectors, parseSize, type SizeRule } from '../quantity/size-language';
import { inBinary, sectorCount } from '../quantity/units';
import { gptPlaces } from '../tables/gpt';
import { partitionId } from '../tables/mbr';
import { fitsTable, typeByRule, type TypeQuestion } from '../tables/types';
import type { Misfit, Placed, Placement, Reason } from './placement';
import { divide, type Share } from './share';
import { strataOf } from './strata';

/** Sectors that slots may take: what lies between the parts of the table. */
function usableOf({ table }: Layout, sectorSize: 512 | 4096, sectors: number): { first: number; end: number } {
  if (table.kind === 'none') return { first: 0, end: sectors };
  if (table.kind === 'mbr') return { first: 1, end: sectors };
  const { firstUsable, lastUsable } = gptPlaces(sectorSize, sectors);
  return { first: firstUsable, end: Math.max(firstUsable, lastUsable + 1) };
}

const TABLE_AREAS = { mbr: 'the table in sector 0', gpt: 'the table', none: 'the start of the medium' } as const;

type FlowSlot = PartitionSlot | FreeSlot;

/** Slots between two fixed things. `until` is exclusive. */
interface Run {
  readonly slots: FlowSlot[];
  readonly behind: RawSlot | undefined;
  readonly before: RawSlot | undefined;
  readonly from: number;
  readonly until: number;
}

interface Asked {
  readonly slot: FlowSlot;
  readonly rule: SizeRule;
  /** Sectors of an exact rule; 0 for a share. */
  readonly exact: number;
  /** Bounds of a share: the least in grains, the most in sectors. */
  readonly least: number;
  readonly most: number;
}

/** Facts that hold for the whole placement. */
interface Ground {
  readonly layout: Layout;
  readonly sectorSize: 512 | 4096;
  readonly sectors: number;
  readonly grain: number;
  /** Unit for FAT data areas, in bytes. */
  readonly unit: number;
  readonly prefersLba: boolean;
}

function ruleOf(slot: FlowSlot): SizeRule {
  const rule = parseSize(slot.size);
  if (!rule.ok) throw new RangeError(`slot ${slot.id}: ${rule.error.message}`);
  return rule.value;
}

function ask(slot: FlowSlot, { sectorSize, grain }: Ground): Asked {
  const rule = ruleOf(slot);
  if (rule.kind === 'exact') {
    const exact = amountInSectors(rule.amount, sectorSize);
    return { slot, rule, exact, least: exact, most: exact };
  }
  const least = Math.max(1, Math.ceil((rule.atLeast ? amountInSectors(rule.atLeast, sectorSize) : grain) / grain));
  const most = rule.atMost ? amountInSectors(rule.atMost, sectorSize) : Number.MAX_SAFE_INTEGER;
  return { slot, rule, exact: 0, least, most: Math.max(least * grain, most) };
}

/** Sizes of all slots of a run, in sectors, with what decided each share. */
function sizesOf(asked: readonly Asked[], run: Run, grain: number): { sectors: number; bound: Share['bound'] }[] {
  const shares = asked.filter(({ rule }) => rule.kind === 'rest');
  let cursor = run.from;
  for (const { exact } of asked) cursor = alignUp(cursor, grain) + exact;
  const space = Math.max(0, run.until - cursor);
  const divided = divide(
    Math.floor(space / grain),
    shares.map(({ rule, least, most }) => ({
      weight: rule.kind === 'rest' ? rule.weight : 1,
      least,
      most: Math.floor(most / grain),
    })),
  );
  const used = divided.reduce((sum, share) => sum + share.units, 0) * grain;
  return asked.map((one, i) => {
    if (one.rule.kind === 'exact') return { sectors: one.exact, bound: undefined };
    const share = divided[shares.indexOf(one)]!;
    // Only the last slot of a run may end off the grain: nothing starts behind it.
    const isLast = i === asked.length - 1 && share.bound === undefined;
    const tail = isLast ? Math.max(0, space - used) : 0;
    return { sectors: Math.min(one.most, share.units * grain + tail), bound: share.bound };
  });
}

function startReason(previous: FlowSlot | undefined, run: Run, cost: number, ground: Ground): Reason {
  const what = previous?.name ?? run.behind?.name ?? TABLE_AREAS[ground.layout.table.kind];
  const rule = previous ? 'behind slot' : run.behind ? 'behind raw range' : 'table area';
  const lost =
    cost === 0
      ? 'already on the grain, nothing lost'
      : `rounded up to the grain of ${inBinary(ground.grain * ground.sectorSize)}: ${sectorCount(cost)} lost`;
  return { rule, grain: ground.grain, cost, text: `Follows ${what}; ${lost}.` };
}

function endReason(asked: Asked, bound: Share['bound'], sectors: number, ground: Ground): Reason {
  const { rule } = asked;
  const size = inBinary(sectors * ground.sectorSize);
  if (rule.kind === 'exact')
    return { rule: 'size asked', grain: ground.grain, cost: 0, text: `${size}, as asked: “${asked.slot.size}”.` };
  const text = {
    least: `Its lower bound: an even share would be less than ${size}.`,
    most: `Its upper bound: an even share would be more than ${size}.`,
    none: rule.weight === 1 ? 'Its share of what the others leave.' : `${rule.weight} shares of what the others leave.`,
  }[bound ?? 'none'];
  const name = bound === 'least' ? 'lower bound' : bound === 'most' ? 'upper bound' : 'share of the rest';
  return { rule: name, grain: ground.grain, cost: 0, text };
}

/** What the document asks of a FAT volume in this place. */
export function fatQuestion(
  slot: PartitionSlot,
  place: { readonly start: number; readonly sectors: number },
  ground: { readonly layout: Layout; readonly sectorSize: 512 | 4096; readonly unit: number },
): FatQuestion {
  const { kind, cluster, rootEntries, padding } = slot.fileSystem ?? { kind: 'fat' };
  const { layout, sectorSize, unit } = ground;
  return {
    sectorSize,
    start: place.start,
    sectors: place.sectors,
    unit,
    prefersFat32: slot.role === 'esp',
    wholeMedium: layout.table.kind === 'none',
    ...(kind !== 'fat' && { variant: kind === 'fat12' ? 12 : kind === 'fat16' ? 16 : 32 }),
    ...(cluster !== undefined && { cluster: exactBytes(cluster, sectorSize) }),
    ...(rootEntries !== undefined && { rootEntries }),
    ...(padding !== undefined && { padding }),
  };
}

function entryOf(
  slot: PartitionSlot,
  number: number,
  start: number,
  sectors: number,
  fat: Placed['fat'],
  ground: Ground,
) {
  const { layout, sectorSize, prefersLba } = ground;
  const { table } = layout;
  if (table.kind === 'none') return undefined;
  const content: TypeQuestion['content'] = fat === undefined ? 'none' : fat.ok ? fat.value.variant : fat.error.variant;
  const question = {
    table: table.kind,
    role: slot.role,
    content,
    end: start + sectors,
    sectors,
    sectorSize,
    prefersLba,
  };
  const chosen = slot.type !== undefined && fitsTable(slot.type, table.kind) ? slot.type : undefined;
  const id =
    table.kind === 'gpt' ? partitionGuid(table.diskId, slot) : partitionId(parseInt(table.signature, 16), number);
  return { number, type: chosen ?? typeByRule(question), id };
}

function partitionFacts(slot: FlowSlot, number: number, start: number, sectors: number, ground: Ground) {
  if (slot.kind === 'free') return {};
  const fat = slot.fileSystem && fatGeometry(fatQuestion(slot, { start, sectors }, ground));
  const entry = entryOf(slot, number, start, sectors, fat, ground);
  return { ...(entry && { entry }), ...(fat && { fat }) };
}

/** Places one run; `number` is the number of its first partition. */
function placeRun(run: Run, number: number, ground: Ground): { placed: Placed[]; end: number } {
  const asked = run.slots.map((slot) => ask(slot, ground));
  const sizes = sizesOf(asked, run, ground.grain);
  const placed: Placed[] = [];
  let cursor = run.from;
  asked.forEach((one, i) => {
    const { sectors, bound } = sizes[i]!;
    const start = alignUp(cursor, ground.grain);
    placed.push({
      slot: one.slot,
      start,
      sectors,
      span: { start: start * ground.sectorSize, end: (start + sectors) * ground.sectorSize },
      rule: one.rule,
      startReason: startReason(run.slots[i - 1], run, start - cursor, ground),
      endReason: endReason(one, bound, sectors, ground),
      ...partitionFacts(one.slot, number, start, sectors, ground),
    });
    if (one.slot.kind === 'partition') number += 1;
    cursor = start + sectors;
  });
  return { placed, end: cursor };
}

function misfitOf(run: Run, placed: readonly Placed[], end: number, ground: Ground): Misfit | undefined {
  if (end <= run.until || run.slots.length === 0) return undefined;
  const couldGive = placed
    .map(({ slot, rule, sectors }) => ({ id: slot.id, sectors: rule?.kind === 'exact' ? sectors - ground.grain : 0 }))
    .filter((one) => one.sectors > 0)
    .sort((a, b) => b.sectors - a.sectors);
  return {
    against: run.before ? { kind: 'raw', id: run.before.id } : { kind: 'medium' },
    slots: run.slots.map((slot) => slot.id),
    shortBy: end - run.until,
    couldGive,
  };
}

function placeRaw(slot: RawSlot, { sectorSize, grain }: Ground): Placed {
  const at = exactBytes(slot.at, sectorSize);
  const end = at + exactBytes(slot.length, sectorSize);
  const start = Math.floor(at / sectorSize);
  const fixed = (text: string): Reason => ({ rule: 'fixed by the document', grain, cost: 0, text });
  return {
    slot,
    start,
    sectors: Math.ceil(end / sectorSize) - start,
    span: { start: at, end },
    startReason: fixed(`Stands at ${inBinary(at)} because the document says so; no grain applies.`),
    endReason: fixed(`${inBinary(end - at)} long, as the document says.`),
  };
}

/**
 * Places a validated layout on its medium. Never fails: what does not fit is placed beyond
 * the end and told in `misfits`, so that it can be seen and mended.
 */
export function place(layout: Layout): Placement {
  const medium = mediumOf(layout.medium);
  const sectorSize = medium.logicalSector;
  const sectors = Math.floor(medium.capacity / sectorSize);
  const grain = grainFor(medium, chosenGrain(layout));
  const dataUnit = medium.writeUnit || grain.bytes;
  const ground: Ground = {
    layout,
    sectorSize,
    sectors,
    grain: grain.sectors,
    unit: dataUnit,
    prefersLba: layout.boots.includes('board') || isPlainFlash(medium.kind),
  };
  const placed: Placed[] = [];
  const misfits: Misfit[] = [];
  const usable = usableOf(layout, sectorSize, sectors);
  let from = usable.first;
  let waiting: FlowSlot[] = [];
  let behind: RawSlot | undefined;
  let number = 1;

  const closeRun = (before: RawSlot | undefined, until: number) => {
    const run: Run = { slots: waiting, behind, before, from, until };
    const done = placeRun(run, number, ground);
    const misfit = misfitOf(run, done.placed, done.end, ground);
    if (misfit) misfits.push(misfit);
    placed.push(...done.placed);
    number += waiting.filter((slot) => slot.kind === 'partition').length;
    from = done.end;
    waiting = [];
  };

  for (const slot of layout.slots) {
    if (slot.kind !== 'raw') {
      waiting.push(slot);
      continue;
    }
    const raw = placeRaw(slot, ground);
    closeRun(slot, raw.start);
    placed.push(raw);
    from = Math.max(from, raw.start + raw.sectors);
    behind = slot;
  }
  closeRun(undefined, usable.end);
  return {
    layout,
    medium,
    sectorSize,
    sectors,
    usable,
    grain,
    dataUnit,
    placed,
    strata: strataOf(placed, { table: layout.table.kind, sectors, usable }, grain.sectors),
    misfits,
  };
}
