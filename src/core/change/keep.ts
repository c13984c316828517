/**
 * From a survey to a layout: every partition that was found becomes a kept slot, where it is and as it is. What the
 * medium looked like goes into the document, so that placing needs no survey, and nothing else is taken for it.
 */
import { factsInside, type Inside } from '../filesystems/readers';
import type { LeftState } from '../filesystems/fields';
import type { FoundEntry, FoundMedium, Layout, RawSlot, Slot, Table } from '../layout/document';
import { FOUND_LIMIT, FOUND_TEXT_LIMIT } from '../layout/found-shape';
import { keptSlot } from '../layout/kept';
import { CONTAINER_TYPES, LAYOUT_NAME_LIMIT, LAYOUT_VERSION, SLOT_LIMIT } from '../layout/vocabulary';
import { fail, ok, type Result } from '../quantity/result';
import { exactBytes } from '../quantity/size-language';
import { exactText, grouped, MIB } from '../quantity/units';
import {
  isBeside,
  authority,
  type ChainTrouble,
  type FoundGap,
  type FoundPartition,
  lastOf,
  type Survey,
} from '../survey/found';
import { GPT_ENTRIES, isGuid } from '../tables/gpt';

/** Text of a medium, on one line: what cannot be shown, or is half a character, becomes a question mark. */
function shown(text: string): string {
  const line = text.replace(/[\p{Cc}\p{Cs}\u2028\u2029]/gu, '?');
  return [...line].slice(0, FOUND_TEXT_LIMIT / 2).join('');
}

/** How its system left a volume, where it did not let go of it and that can be known. */
function stateOf(inside: Inside): LeftState | undefined {
  if (inside.kind === 'known') return inside.content.state;
  const isLetGo =
    inside.kind === 'fat' ? inside.fat.cleanlyUnmounted : inside.kind !== 'exfat' || !inside.exfat.isDirty;
  return isLetGo ? undefined : 'not cleanly unmounted';
}

/** What is known of the inside, for the document. */
function insideOf(inside: Inside): FoundEntry['inside'] {
  const facts = factsInside(inside);
  if (!facts) return undefined;
  const { name, label, id, bytes, used, hidden } = facts;
  const state = stateOf(inside);
  return {
    kind: shown(name),
    ...(label && { label: shown(label) }),
    ...(id && { id: shown(id) }),
    ...(bytes !== undefined && Number.isSafeInteger(bytes) && { bytes }),
    ...(used !== undefined && used >= 0 && Number.isSafeInteger(used) && { used }),
    ...(state && { state }),
    ...(hidden !== undefined && { hidden }),
  };
}

function entryOf(one: FoundPartition): FoundEntry {
  const { number, start, sectors, type, name, id, attributes, active, recordAt, kind } = one;
  const inside = insideOf(one.inside);
  return {
    number,
    at: start,
    sectors,
    ...(type !== '' && { type }),
    ...(kind === 'gpt' && name !== '' && { name: shown(name) }),
    ...(kind === 'gpt' && { id }),
    ...(attributes.length > 0 && { attributes: [...attributes] }),
    ...(active && { active: true as const }),
    ...(kind === 'logical' && { recordAt }),
    ...(inside && { inside }),
  };
}

/** Partitions of the table itself: neither the container nor what a hybrid shows a second time. */
function entriesOf({ partitions }: Survey): readonly FoundPartition[] {
  return partitions.filter((one) => one.kind !== 'container' && !isBeside(one));
}

/** Id of a medium: of its GPT, or the signature of its MBR. */
function idOf(survey: Survey): string | undefined {
  if (survey.table === 'gpt') return authority(survey)?.diskId;
  return survey.table === 'mbr' ? signatureOf(survey) : undefined;
}

const signatureOf = ({ mbr }: Survey) => (mbr?.signature ?? 0).toString(16).padStart(8, '0');

/** What a medium looks like, for the document. */
export function foundMedium(survey: Survey): FoundMedium {
  const container = survey.partitions.find(({ kind }) => kind === 'container');
  const id = idOf(survey);
  return {
    size: survey.size,
    table: survey.table,
    ...(id !== undefined && { id }),
    ...(container && {
      container: { number: container.number, at: container.start, sectors: container.sectors },
    }),
    partitions: entriesOf(survey).map(entryOf),
  };
}

function tableOf(survey: Survey, slots: readonly Slot[]): Table {
  const { table, sectorSize, partitions } = survey;
  if (table === 'none') return { kind: 'none' };
  if (table === 'mbr') {
    const type = CONTAINER_TYPES.find((code) =>
      partitions.some((one) => one.kind === 'container' && one.type === code),
    );
    return { kind: 'mbr', signature: signatureOf(survey), ...(type && { containerType: type }) };
  }
  const { diskId, entries, array } = authority(survey)!;
  const first = survey.gpt.first?.headerSound ? survey.gpt.first.array : array < survey.sectors / 2 ? array : 2;
  const hybrid = partitions
    .filter(isBeside)
    .flatMap(({ start, sectors }) => {
      const twin = partitions.find((one) => one.kind === 'gpt' && one.start === start && one.sectors === sectors);
      return twin ? slots.filter((slot) => slot.kind === 'partition' && slot.keeps === twin.number) : [];
    })
    .map(({ id }) => id);
  return {
    kind: 'gpt',
    diskId,
    ...(entries !== GPT_ENTRIES && { entries }),
    ...(first !== 2 && { array: exactText(first * sectorSize, sectorSize) }),
    ...(hybrid.length > 0 && { hybrid: [...new Set(hybrid)] }),
  };
}

/** Largest gap ahead of the first partition that is taken for the place of a loader. */
const LOADER_GAP = 64 * MIB;

/** What lies ahead of the first partition, perhaps a loader: it stays. */
function loaderSlot({ gaps, sectorSize, partitions, table }: Survey): RawSlot[] {
  const first = Math.min(...partitions.flatMap(({ start, recordAt }) => (recordAt > 0 ? [start, recordAt] : [start])));
  const gap = gaps.find((one): one is FoundGap & { dataAt: number } => one.start < first && one.dataAt !== undefined);
  if (!gap || table === 'none' || gap.sectors * sectorSize > LOADER_GAP) return [];
  const at = Math.floor(gap.dataAt / sectorSize);
  const text = (sectors: number) => exactText(sectors * sectorSize, sectorSize);
  return [
    {
      id: 'kept-loader',
      kind: 'raw',
      name: 'Ahead of the first partition',
      at: text(at),
      length: text(gap.start + gap.sectors - at),
      keeps: true,
    },
  ];
}

/** Troubles of a chain behind which more partitions may lie than were found. */
const BREAKS: readonly ChainTrouble['kind'][] = [
  'loops',
  'leaves the container',
  'has no boot record mark',
  'is longer than is followed',
];

/** What lies in a container behind a place at which its chain breaks: nobody knows what it is, and it stays. */
function unreachedSlots({ chain, gaps, partitions, sectorSize }: Survey): RawSlot[] {
  if (!chain.some(({ kind }) => BREAKS.includes(kind))) return [];
  const box = partitions.find(({ kind }) => kind === 'container');
  const last = Math.max(box?.start ?? 0, ...partitions.flatMap((one) => (one.kind === 'logical' ? [lastOf(one)] : [])));
  return gaps
    .filter(({ start }) => box !== undefined && start > last && start <= lastOf(box))
    .map(({ start, sectors }) => ({
      id: `kept-at-${start}`,
      kind: 'raw',
      name: 'Behind a broken chain',
      at: exactText(start * sectorSize, sectorSize),
      length: exactText(sectors * sectorSize, sectorSize),
      keeps: true,
    }));
}

/** Why no layout can be made of a survey; undefined where one can. */
function hindrance(survey: Survey): string | undefined {
  const entries = entriesOf(survey);
  const { sectorSize, table } = survey;
  if (survey.sectors === 0) return 'it has not even one sector';
  if (entries.length >= Math.min(FOUND_LIMIT, SLOT_LIMIT))
    return `it has ${grouped(entries.length)} partitions, and a layout has at most ${SLOT_LIMIT} slots`;
  const empty = entries.find(({ sectors }) => sectors === 0);
  if (empty) return `partition ${empty.number} has no sectors: the table is mended first`;
  const far = entries.find((one) => !Number.isSafeInteger((lastOf(one) + 1) * sectorSize));
  if (far) return `partition ${far.number} lies beyond every medium: the table is mended first`;
  if (survey.partitions.filter((one) => one.kind === 'container' && !isBeside(one)).length > 1)
    return 'it has more than one container of logical partitions';
  if (table !== 'gpt') return undefined;
  const header = authority(survey);
  if (!header) return 'neither copy of its GPT can be believed: the table is mended first';
  if (header.entries < 4 || header.entries > 1024)
    return `its GPT has ${grouped(header.entries)} entries; a layout has 4 to 1,024`;
  return entries.some(({ type, id }) => !isGuid(type) || !isGuid(id))
    ? 'an entry of its GPT cannot be read'
    : undefined;
}

/** How a layout that is made from a survey is called, and the date in it. */
export interface KeepOptions {
  readonly name: string;
  /** As a document says it: 2026-03-01T12:00:00. */
  readonly date: string;
}

/** A layout that keeps every partition of a medium as it is, or why there is none. */
export function layoutKeeping(survey: Survey, { name, date }: KeepOptions): Result<Layout, string> {
  const why = hindrance(survey);
  if (why !== undefined) return fail(why);
  const { size, sectorSize, table } = survey;
  const found = foundMedium(survey);
  const slots = loaderSlot(survey);
  const layout = (of: readonly Slot[]): Layout => ({
    format: 'loess-layout',
    version: LAYOUT_VERSION,
    name: shown(name).slice(0, LAYOUT_NAME_LIMIT) || 'Kept',
    date,
    medium: {
      kind: 'image',
      capacity: { exact: exactText(size, sectorSize) },
      logicalSector: sectorSize,
      physicalSector: sectorSize === 4096 ? 4096 : 512,
    },
    boots: [],
    table: tableOf(survey, of),
    found,
    slots: [...of],
  });
  const inOrder = [...found.partitions].sort((a, b) => a.at - b.at || a.number - b.number);
  const kept = inOrder.map((entry) => keptSlot(entry, sectorSize, table));
  const unreached = unreachedSlots(survey);
  const startOf = ({ at = '0' }: { at?: string | undefined }) => exactBytes(at, sectorSize);
  // A sort keeps the order of what begins at one place.
  return ok(layout([...slots, ...[...kept, ...unreached].sort((a, b) => startOf(a) - startOf(b))]));
}
