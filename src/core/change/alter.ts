/**
 * From what was found to what is planned: the plan that turns a medium into what a layout with kept partitions says.
 * Kept partitions are written to nowhere; the table is edited, or written anew where it is of another kind; new slots are
 * made as in a build.
 */
import type { BlockSource } from '../bytes/blocks';
import { type Span, without } from '../bytes/extents';
import { codeRange, composeSlots, tableRanges } from '../compose/compose';
import { laidAnew } from '../filesystems/ext/repack/order';
import type { FoundEntry, FoundMedium } from '../layout/document';
import { foundOf, keepsInside } from '../layout/kept';
import { fail, ok, type Result } from '../quantity/result';
import { grouped, inBoth } from '../quantity/units';
import { isPartition, type Placed, type Placement } from '../placement/placement';
import type { Survey } from '../survey/found';
import { arraySectors } from '../tables/gpt';
import { CODE_LENGTH } from '../tables/mbr';
import { foundMedium } from './keep';
import { hiddenAfterMove } from './moved';
import { type NewSum, type Plan, plannedEnd, planOf, type Put } from './plan';
import { tableEdits } from './table-edits';

const TABLE_WORDS = { mbr: 'an MBR', gpt: 'a GPT', none: 'no table' } as const;

/** Why there is no plan: it is another medium than the layout was made from, or what is asked cannot be. */
export interface NotAltered {
  readonly isOther: boolean;
  readonly lines: readonly string[];
}

/** What tells one partition from another: place, type and id. */
const told = ({ number, at, sectors, type = '', id = '' }: FoundEntry) => [number, at, sectors, type, id].join();

/** What of a medium is not as the document says that it was found; empty where all of it is. */
function otherThanFound(meant: FoundMedium, survey: Survey): string[] {
  const now = foundMedium(survey);
  const is: string[] = [];
  if (now.size !== meant.size) is.push(`it has ${inBoth(now.size)}, and had ${inBoth(meant.size)}`);
  if (now.table !== meant.table) is.push(`it has ${TABLE_WORDS[now.table]}, and had ${TABLE_WORDS[meant.table]}`);
  else if (now.id !== meant.id) is.push(`its table has the id ${now.id}, and had ${meant.id}`);
  if (is.length > 0) return is;
  const [here, there] = [new Map(now.partitions.map((one) => [one.number, one])), new Set<number>()];
  for (const one of meant.partitions) {
    there.add(one.number);
    const found = here.get(one.number);
    if (!found) is.push(`partition ${one.number} is not there any more`);
    else if (told(found) !== told(one))
      is.push(`partition ${one.number} has another place, type or id: it begins at sector ${grouped(found.at)} now`);
  }
  for (const { number } of now.partitions) if (!there.has(number)) is.push(`partition ${number} is new`);
  return is;
}

/** Zeros over the parts of the table that was there, where the new one and the slots leave them. */
function formerTable(survey: Survey, taken: readonly Span[]): Put[] {
  const { sectorSize, gpt, partitions } = survey;
  const spans: { what: string; start: number; sectors: number }[] = [];
  for (const copy of [gpt.first, gpt.copy]) {
    if (!copy || survey.table !== 'gpt') continue;
    spans.push({ what: 'former GPT header', start: copy.sector, sectors: 1 });
    spans.push({ what: 'former GPT entries', start: copy.array, sectors: arraySectors(copy, sectorSize) });
  }
  for (const { recordAt, number } of partitions)
    if (recordAt > 0) spans.push({ what: `former record of partition ${number}`, start: recordAt, sectors: 1 });
  const size = survey.sectors * sectorSize;
  return spans.flatMap(({ what, start, sectors }) =>
    without({ start: start * sectorSize, end: Math.min((start + sectors) * sectorSize, size) }, taken).map(
      (left): Put => ({ what, extent: { offset: left.start, zeros: left.end - left.start } }),
    ),
  );
}

/** A table of another kind, whole; the boot code of sector 0 stays where the layout has none of its own. */
function newTable(placement: Placement, survey: Survey): Put[] {
  const { sectorSize } = placement;
  const hasCode = codeRange(placement).length > 0;
  const ranges = tableRanges(placement).flatMap((range): Put[] => {
    const { extent } = range;
    if (hasCode || extent.offset !== 0 || !('bytes' in extent)) return [range];
    return [{ ...range, extent: { offset: CODE_LENGTH, bytes: extent.bytes.subarray(CODE_LENGTH) } }];
  });
  const taken = [
    ...ranges.map(({ extent }) => ({ start: extent.offset, end: plannedEnd(extent) })),
    ...placement.placed.map(({ start, sectors }) => ({
      start: start * sectorSize,
      end: (start + sectors) * sectorSize,
    })),
  ];
  return [...ranges, ...formerTable(survey, taken)];
}

/** A kept partition that goes elsewhere: its bytes, and its header where that says the place. */
function moves(placement: Placement): Placed[] {
  return placement.placed.filter(
    (one) =>
      isPartition(one) &&
      keepsInside(one.slot) &&
      !one.slot.repack &&
      foundOf(placement.layout, one.slot)?.at !== one.start,
  );
}

async function movedRanges(placement: Placement, survey: Survey, source: BlockSource): Promise<Put[]> {
  const { sectorSize, layout } = placement;
  const ranges: Put[] = [];
  for (const one of moves(placement)) {
    const was = foundOf(layout, one.slot);
    if (!was) continue;
    const length = Math.min(was.sectors, one.sectors) * sectorSize;
    const whole = { owner: one.slot.id, from: was.at * sectorSize, to: one.start * sectorSize, length };
    const headers = await hiddenAfterMove(survey, was, one.start, source);
    const spans = headers.map(({ extent }) => ({ start: extent.offset, end: plannedEnd(extent) }));
    ranges.push(...headers.map((header) => ({ ...header, owner: one.slot.id })));
    for (const { start, end } of without({ start: whole.to, end: whole.to + length }, spans))
      ranges.push({
        what: `contents of ${one.slot.name}, moved`,
        owner: one.slot.id,
        extent: { offset: start, moved: { at: whole.from + start - whole.to, length: end - start } },
      });
  }
  return ranges;
}

/** Kept ext volumes that are laid anew, each read where it lies. */
async function repackedRanges(
  { sectorSize, layout, placed }: Placement,
  source: BlockSource,
): Promise<Result<readonly Put[], readonly string[]>> {
  const ranges: Put[] = [];
  const refused: string[] = [];
  for (const one of placed.filter(isPartition)) {
    const { slot } = one;
    const was = slot.repack && foundOf(layout, slot);
    if (!slot.repack || !was || !keepsInside(slot)) continue;
    const wish = { bytes: one.sectors * sectorSize, numbering: slot.repack };
    const laid = await laidAnew(source, was.at * sectorSize, was.sectors * sectorSize, wish);
    if (!laid.ok) {
      const { why, faults } = laid.error;
      const [fault] = faults;
      const first = fault ? ` (${fault.where}, ${fault.code}: ${fault.says})` : '';
      refused.push(`the ${was.inside?.kind ?? 'ext'} of ${slot.name} cannot be laid anew: ${why}${first}`);
      continue;
    }
    const to = one.start * sectorSize;
    for (const { what, extent } of laid.value)
      ranges.push({
        what: `${what} of ${slot.name}, laid anew`,
        owner: slot.id,
        extent: { ...extent, offset: extent.offset + to },
      });
  }
  return refused.length > 0 ? fail(refused) : ok(joinedMoves(ranges));
}

/** Ranges in ascending order; what follows each other here and there is one. */
function joinedMoves(ranges: Put[]): Put[] {
  const all: Put[] = [];
  for (const put of ranges.sort((a, b) => a.extent.offset - b.extent.offset)) {
    const last = all.at(-1);
    if (last && 'moved' in last.extent && 'moved' in put.extent && last.owner === put.owner) {
      const { offset, moved } = last.extent;
      const { moved: next } = put.extent;
      if (offset + moved.length === put.extent.offset && moved.at + moved.length === next.at) {
        const joined = { at: moved.at, length: moved.length + next.length };
        all[all.length - 1] = { ...last, extent: { offset, moved: joined } };
        continue;
      }
    }
    all.push(put);
  }
  return all;
}

/** Ranges of a table beside which slots lie: what a slot takes of them is its own. */
function beside(ranges: readonly Put[], others: readonly Put[]): Put[] {
  const spans = others.map(({ extent }) => ({ start: extent.offset, end: plannedEnd(extent) }));
  return ranges.flatMap((range): Put[] => {
    const { extent } = range;
    const end = plannedEnd(extent);
    const over = spans.filter((span) => span.start < end && span.end > extent.offset);
    if (over.length === 0 || !('bytes' in extent)) return [range];
    return without({ start: extent.offset, end }, over).map((left) => ({
      ...range,
      extent: {
        offset: left.start,
        bytes: extent.bytes.subarray(left.start - extent.offset, left.end - extent.offset),
      },
    }));
  });
}

/**
 * The plan that turns a medium into what a layout says, or why there is none. The placement must have no stop finding. What lies
 * there is summed by `newSum`. Reads the medium, and writes nothing.
 */
export async function alteration(
  placement: Placement,
  survey: Survey,
  source: BlockSource,
  newSum?: NewSum,
): Promise<Result<Plan, NotAltered>> {
  const { layout } = placement;
  const not = (lines: readonly string[], isOther = true) => fail({ isOther, lines });
  if (!layout.found) return not(['the layout keeps nothing: it was not made from a survey']);
  if (survey.sectorSize !== placement.sectorSize)
    return not([`it is read in sectors of ${survey.sectorSize} bytes; the layout has ${placement.sectorSize}`]);
  const other = otherThanFound(layout.found, survey);
  if (other.length > 0) return not(other);
  const table =
    layout.table.kind === survey.table
      ? await tableEdits(placement, survey, source)
      : ok<readonly Put[]>(newTable(placement, survey));
  if (!table.ok) return not([table.error]);
  const repacked = await repackedRanges(placement, source);
  if (!repacked.ok) return not(repacked.error, false);
  const isEdited = layout.table.kind === survey.table && layout.table.kind !== 'none';
  const slots: Put[] = [
    ...(isEdited ? codeRange(placement) : []),
    ...composeSlots(placement),
    ...(await movedRanges(placement, survey, source)),
    ...repacked.value,
  ];
  return ok(await planOf(source, [...beside(table.value, slots), ...slots], newSum));
}
