/** Findings about what a medium holds already: what is lost or at risk of it, and what of it has another number. */
import type { FoundEntry } from '../../layout/document';
import {
  asFound,
  keepingAgain,
  layingAnew,
  saysAnew,
  saysGone,
  saysLaidAnew,
  saysLarger,
  saysMoved,
  saysSmaller,
  resizing,
} from '../../layout/acts';
import {
  canRepack,
  changesOf,
  foundOf,
  goneFrom,
  isKept,
  keepsInside,
  type KeptChange,
  type KeptSlot,
} from '../../layout/kept';
import { TABLE_NAMES } from '../../layout/vocabulary';
import { isEntered, isPartition, type PlacedPartition, type Placement } from '../../placement/placement';
import { alignDown } from '../../quantity/integers';
import { inBoth } from '../../quantity/units';
import { partitionId } from '../../tables/mbr';
import { atSlot, type Occurrence, once, type Remedy, type Rule, rule } from './finding';

/** A kept slot with its partition and its place. */
interface Kept {
  readonly one: PlacedPartition;
  readonly slot: KeptSlot;
  readonly entry: FoundEntry;
  readonly changes: readonly KeptChange[];
}

const keptOf = once(({ placed, layout }: Placement): Kept[] => {
  if (!layout.found) return [];
  return placed.filter(isPartition).flatMap((one) => {
    const entry = foundOf(layout, one.slot);
    return isKept(one.slot) && entry
      ? [{ one, slot: one.slot, entry, changes: changesOf(one.slot, entry, layout) }]
      : [];
  });
});

function backAsFound({ layout }: Placement, { slot }: Kept): Remedy[] {
  const edit = asFound(layout, slot.id);
  return edit ? [{ label: `Leave ${slot.name} as it was found`, edit }] : [];
}

/** An ext that is cut can be laid anew in what is left. */
function layAnew({ layout }: Placement, { slot, entry }: Kept, change: KeptChange): Remedy[] {
  const act = change === 'made smaller' && !slot.repack ? layingAnew(layout, slot.id, 'renumbered') : undefined;
  return act ? [{ label: `Lay the ${entry.inside!.kind} of ${slot.name} anew`, edit: act.edit }] : [];
}

/** What is found of kept slots that change in one way. */
function ofChanged(
  change: KeptChange,
  why: string,
  say: (kept: Kept, placement: Placement) => string | undefined,
): (placement: Placement) => Occurrence[] {
  return (placement) =>
    keptOf(placement)
      .filter(({ changes }) => changes.includes(change))
      .flatMap((kept): Occurrence[] => {
        const said = say(kept, placement);
        if (said === undefined) return [];
        const remedies = [...layAnew(placement, kept, change), ...backAsFound(placement, kept)];
        return [{ place: atSlot(kept.slot.id), sentence: `${kept.slot.name}: ${said}`, why, remedies }];
      });
}

const anotherMedium = rule('kept/another-medium', 'stop', ({ layout, medium }) => {
  const { found } = layout;
  if (!found || found.size === medium.capacity) return [];
  return [
    {
      place: { kind: 'medium' },
      sentence: `The layout keeps partitions of a medium of ${inBoth(found.size)}; the medium has ${inBoth(medium.capacity)}.`,
      why: 'What is kept lies on that medium and on no other one.',
      remedies: [
        {
          label: 'Use the medium that was found',
          edit: {
            do: 'change layout',
            patch: { medium: { ...layout.medium, capacity: { exact: `${found.size} B` } } },
          },
        },
      ],
    },
  ];
});

const lost = rule('kept/lost', 'risk', ({ layout, sectorSize }) =>
  goneFrom(layout).map((entry) => ({
    place: { kind: 'table' },
    sentence: `Partition ${entry.number} goes: ${saysGone(entry, sectorSize).sentence}`,
    why: 'No slot keeps it. Its bytes stay where they are until something is written there, and no table leads to them.',
    remedies: [{ label: `Keep partition ${entry.number}`, edit: keepingAgain(layout, entry) }],
  })),
);

const madeAnew = rule(
  'kept/made-anew',
  'risk',
  ofChanged(
    'formatted',
    'Its entry and its id stay; what was inside does not.',
    ({ entry }, { sectorSize }) => saysAnew(entry, sectorSize).sentence,
  ),
);

const cutOff = rule(
  'kept/cut-off',
  'risk',
  ofChanged(
    'made smaller',
    'A file system that is cut loses what lay behind the cut, and most refuse to be mounted at all.',
    ({ entry, one, slot }, { sectorSize }) => {
      if (!keepsInside(slot) || slot.repack) return undefined;
      const said = saysSmaller(entry, one.sectors, sectorSize);
      return said.cost === 'none' ? undefined : said.sentence;
    },
  ),
);

const endsWithin = rule(
  'kept/ends-within',
  'note',
  ofChanged(
    'made smaller',
    'Its own system has made it smaller there, and the room behind it is free.',
    ({ entry, one, slot }, { sectorSize }) => {
      if (!keepsInside(slot) || slot.repack) return undefined;
      const said = saysSmaller(entry, one.sectors, sectorSize);
      return said.cost === 'none' ? said.sentence : undefined;
    },
  ),
);

const roomBehind = rule(
  'kept/room-behind',
  'note',
  ofChanged('made larger', 'Only the entry of the table grows.', ({ entry, one, slot }, { sectorSize }) =>
    keepsInside(slot) && !slot.repack ? saysLarger(entry, one.sectors, sectorSize).sentence : undefined,
  ),
);

const laidAnew = rule(
  'kept/laid-anew',
  'note',
  ofChanged(
    'laid anew',
    'It is checked first; a volume with faults, or one that does not fit, is not touched, and before and after says why.',
    ({ entry, one, slot }, { sectorSize }) =>
      slot.repack && saysLaidAnew(entry, one.sectors, sectorSize, slot.repack).sentence,
  ),
);

/** An ext is as long as its blocks are, of 4 KiB at most nearly always. */
const BLOCK = 4096;

const inTheWay = rule('kept/end-in-the-way', 'stop', (placement) => {
  const { layout, sectorSize, misfits } = placement;
  const kept = new Map(keptOf(placement).map((one) => [one.slot.id, one]));
  return misfits.flatMap(({ against, slots, shortBy }): Occurrence[] => {
    const last = kept.get(slots.at(-1) ?? '');
    if (against.kind !== 'medium' || !last || !canRepack(last.slot, layout.found)) return [];
    const { slot, one, entry } = last;
    const to = alignDown(one.sectors - shortBy, BLOCK / sectorSize);
    const act = to > 0 ? resizing(layout, slot.id, to) : undefined;
    if (!act?.ok) return [];
    return [
      {
        place: atSlot(slot.id),
        sentence: `${slot.name} reaches ${inBoth(shortBy * sectorSize)} too far: that room at the end of the medium is wanted.`,
        why: `A GPT keeps a copy of itself in the last sectors. The ${entry.inside!.kind} can give them up: it is checked, and laid anew.`,
        remedies: [{ label: `Lay it anew in ${inBoth(to * sectorSize)}`, edit: act.value.edit }],
      },
    ];
  });
});

const moved = rule(
  'kept/moved',
  'risk',
  ofChanged(
    'moved',
    'Moving is the one act in which everything that is kept is written.',
    ({ entry, one, slot }, { sectorSize }) =>
      keepsInside(slot) ? saysMoved(entry, one.start, sectorSize).sentence : undefined,
  ),
);

/** The id that an MBR gives to a number, in words of a mount table. */
function idWords({ layout }: Placement, number: number): string {
  return layout.table.kind === 'mbr'
    ? ` and PARTUUID=${partitionId(parseInt(layout.table.signature, 16), number)}`
    : '';
}

const otherNumber = rule('kept/other-number', 'risk', (placement) =>
  keptOf(placement)
    .filter(({ one, slot }) => isEntered(one) && slot.keeps > 0 && one.entry.number !== slot.keeps)
    .map(({ one, slot }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} was partition ${slot.keeps} and becomes partition ${one.entry!.number}.`,
      why: `Lines of mount tables and boot entries that name number ${slot.keeps}${idWords(placement, slot.keeps)} lead to another partition, or to none; those that name its label or the id of its file system hold.`,
      remedies: [],
    })),
);

const notLetGo = rule('kept/not-let-go', 'risk', (placement) => {
  if (!placement.placed.some((one) => isPartition(one) && !isKept(one.slot))) return [];
  return keptOf(placement)
    .filter(({ slot, entry }) => keepsInside(slot) && entry.inside?.state !== undefined)
    .map(({ slot, entry }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} holds ${entry.inside!.kind} that was ${entry.inside!.state}.`,
      why: 'A system that sleeps, or was cut off, goes on with what it remembers of the medium. Let it end properly first, then survey again.',
      remedies: [],
    }));
});

const anotherTable = rule('kept/another-table', 'risk', ({ layout }) => {
  const { found, table } = layout;
  if (!found || found.table === table.kind || found.partitions.length === 0) return [];
  const from = TABLE_NAMES[found.table];
  const to = TABLE_NAMES[table.kind];
  return [
    {
      place: { kind: 'table' },
      sentence: `The table becomes ${to}, and was ${from}: all ${found.partitions.length} partitions get other ids, and types that mean the same.`,
      why:
        table.kind === 'gpt'
          ? 'Nothing of what is inside moves. A BIOS loader that was put into the gap behind sector 0 does not start until it is put back into a BIOS boot partition; UEFI starts from an ESP. Mount lines that name PARTUUIDs are to be written anew.'
          : 'Nothing of what is inside moves. Names, attributes and partition ids go; UEFI may not start from an MBR on a fixed disk; a BIOS needs its loader and an active mark. Mount lines that name PARTUUIDs or PARTLABELs are to be written anew.',
      remedies: [],
    },
  ];
});

export const KEPT_RULES: readonly Rule[] = [
  anotherMedium,
  lost,
  madeAnew,
  cutOff,
  endsWithin,
  roomBehind,
  laidAnew,
  inTheWay,
  moved,
  otherNumber,
  notLetGo,
  anotherTable,
];
