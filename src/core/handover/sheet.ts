/**
 * The sheet: all that the next person needs of a medium, on one page. Figures are exact sectors and bytes in both
 * families of units; what it says follows from the placement alone, and from the images that were built.
 */
import type { Layout } from '../layout/document';
import { foundOf, insideWords, isKeptRaw, keepsInside } from '../layout/kept';
import { kindOf } from '../filesystems/kinds';
import type { Finding } from '../findings/layout/finding';
import type { Severity } from '../findings/severity';
import { ROLE_NAMES, TABLE_NAMES } from '../layout/vocabulary';
import { mediumText } from '../layout/medium-spec';
import { bootFiles, type BootFile } from '../naming/boot';
import { mountTableText } from '../naming/mount-table';
import type { MachineMedium } from '../naming/nameable';
import { isEntered, lastSector, type Placed, type Placement, type Stratum } from '../placement/placement';
import { exactText, grouped, inBoth } from '../quantity/units';
import { typeName } from '../tables/types';
import { type IdentifiedMedium, identifiersOf } from './identifiers';
import { type LeftToDo, leftToDo } from './left-to-do';

/** An image that was built of the layout. */
export interface BuiltImage {
  readonly name: string;
  readonly bytes: number;
  /** 64 hexadecimal digits; undefined where no sum was made. */
  readonly sha256: string | undefined;
  /** Of which revision it is, where there are revisions. */
  readonly revision?: number;
}

/** One thing on the medium: a slot, a part of the table, or a gap. */
export interface SheetRow {
  readonly number: number | undefined;
  readonly name: string;
  /** What it is for, what is in it, its type, what it is marked with. */
  readonly what: readonly string[];
  readonly first: number;
  readonly last: number;
  readonly sectors: number;
  readonly bytes: number;
  /** Exact bytes, where it does not begin and end with sectors. */
  readonly exactly: string | undefined;
  readonly isSlot: boolean;
}

export interface SheetRisk {
  readonly severity: Severity;
  readonly place: string;
  readonly sentence: string;
  /** Why it was accepted; undefined while nobody did. */
  readonly reason: string | undefined;
}

export interface Sheet {
  readonly title: string;
  readonly story: string | undefined;
  /** Facts about medium and table, by name. */
  readonly facts: readonly (readonly [string, string])[];
  readonly rows: readonly SheetRow[];
  readonly ids: IdentifiedMedium;
  readonly mounts: string;
  readonly boot: readonly BootFile[];
  readonly risks: readonly SheetRisk[];
  readonly images: readonly BuiltImage[];
  readonly left: readonly LeftToDo[];
}

function marksOf({ slot }: Placed): string[] {
  if (slot.kind !== 'partition') return [];
  return [...(slot.active ? ['active'] : []), ...(slot.attributes ?? [])];
}

function whatOf(placed: Placed, layout: Layout): string[] {
  const { slot, made, entry } = placed;
  if (slot.kind === 'raw') return ['raw range', isKeptRaw(slot) ? 'kept as it was' : (slot.blob?.name ?? 'zeros')];
  if (slot.kind === 'free') return ['kept free'];
  const { content } = slot;
  const inside = content && kindOf(content).summary(content, made);
  const found = foundOf(layout, slot);
  const kept = found && keepsInside(slot) ? `kept as it was: ${insideWords(found)}` : undefined;
  return [
    ROLE_NAMES[slot.role],
    kept ?? (inside ? `${inside.word}${inside.detail === undefined ? '' : ` ${inside.detail}`}` : 'left to its system'),
    ...(entry ? [typeName(entry.type)] : []),
    ...marksOf(placed),
    ...(slot.mount === undefined ? [] : [`at ${slot.mount}`]),
  ];
}

/** Why nothing lies there, in few words. */
const CAUSES: Readonly<Record<Extract<Stratum, { kind: 'gap' }>['cause'], string>> = {
  grain: 'lost to the grain',
  'before raw range': 'before a raw range',
  'before pinned slot': 'before a pinned slot',
  closed: 'closed by the table',
  unclaimed: 'claimed by nobody',
};

function rowOf(stratum: Stratum, { sectorSize, layout }: Placement): SheetRow {
  const { start, sectors } = stratum;
  const range = { first: start, last: lastSector(stratum), sectors, bytes: sectors * sectorSize };
  const blank = { number: undefined, exactly: undefined, isSlot: false };
  if (stratum.kind === 'table') return { ...range, ...blank, name: 'Table', what: [stratum.text] };
  if (stratum.kind === 'gap') return { ...range, ...blank, name: 'Unused', what: [CAUSES[stratum.cause]] };
  const { placed } = stratum;
  const { span, slot } = placed;
  const isWhole = span.start === start * sectorSize && span.end === (start + sectors) * sectorSize;
  return {
    ...range,
    number: isEntered(placed) ? placed.entry.number : undefined,
    name: slot.name,
    what: whatOf(placed, layout),
    exactly: isWhole ? undefined : `bytes ${grouped(span.start)} to ${grouped(span.end - 1)}`,
    isSlot: true,
  };
}

const STARTS = { uefi: 'UEFI firmware', bios: 'a BIOS', board: 'a board' } as const;

function factsOf({ layout, sectors, sectorSize, grain, containers }: Placement): [string, string][] {
  const { medium, table, boots } = layout;
  const id = table.kind === 'gpt' ? table.diskId : table.kind === 'mbr' ? table.signature : undefined;
  return [
    [
      'Medium',
      `${mediumText(medium)}, at least ${inBoth(sectors * sectorSize)}, ${grouped(sectors)} sectors of ${sectorSize} B`,
    ],
    ['Table', `${TABLE_NAMES[table.kind]}${id === undefined ? '' : `, ${id}`}`],
    ...containers.map(({ number, type, start, sectors: count }): [string, string] => [
      'Container',
      `entry ${number}, ${typeName(type)}, sectors ${grouped(start)} to ${grouped(start + count - 1)}, ${inBoth(count * sectorSize)}`,
    ]),
    ['Started by', boots.length === 0 ? 'nothing: it holds data' : boots.map((one) => STARTS[one]).join(' and ')],
    ['Grain', exactText(grain.bytes, sectorSize)],
    ['Made for', layout.date.replace('T', ', ')],
  ];
}

function risksOf({ layout }: Placement, findings: readonly Finding[]): SheetRisk[] {
  return findings
    .filter(({ severity }) => severity !== 'note')
    .map(({ severity, place, sentence, accepted }) => ({
      severity,
      place:
        place.kind === 'slot'
          ? (layout.slots.find(({ id }) => id === place.id)?.name ?? place.id)
          : { medium: 'Medium', table: 'Table', boots: 'Starting' }[place.kind],
      sentence,
      reason: accepted,
    }));
}

/** The sheet of a medium; `media` are those of its machine, itself the first, `images` what was built of it. */
export function sheetOf(
  media: readonly [MachineMedium, ...MachineMedium[]],
  findings: readonly Finding[],
  images: readonly BuiltImage[],
): Sheet {
  const [own] = media;
  const { placement } = own;
  const { layout } = placement;
  return {
    title: layout.name,
    story: layout.story,
    facts: factsOf(placement),
    rows: placement.strata.filter(({ sectors }) => sectors > 0).map((one) => rowOf(one, placement)),
    ids: identifiersOf([own])[0]!,
    mounts: mountTableText(media),
    boot: bootFiles(own),
    risks: risksOf(placement, findings),
    images,
    left: leftToDo(placement),
  };
}
