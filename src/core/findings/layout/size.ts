/** Findings about sizes that do not come out: no room, nothing to refer to, a place that is taken. */
import { preparedBytes } from '../../layout/contents';
import { counted, exactText, grouped, inBoth, MIB, sectorCount } from '../../quantity/units';
import type { Layout } from '../../layout/document';
import { machineEdit } from '../../layout/edits';
import { KIND_NAMES } from '../../medium/medium';
import { sizeRootOf } from '../../placement/asks';
import { nextNominal } from '../../placement/least';
import { place } from '../../placement/place';
import type { Misfit, Placed, Placement } from '../../placement/placement';
import { alignUp } from '../../quantity/integers';
import { amountInSectors } from '../../quantity/size-language';
import { atSlot, changing, indexOfSlot, type Occurrence, once, type Remedy, type Rule, rule } from './finding';

function nameOf(placement: Placement, id: string): string {
  return placement.layout.slots.find((slot) => slot.id === id)?.name ?? id;
}

function placedOf(placement: Placement, id: string): Placed {
  return placement.placed.find((one) => one.slot.id === id)!;
}

/** Ways out of a misfit: the slots that alone could give enough. */
function givingRemedies(placement: Placement, misfit: Misfit): Remedy[] {
  const { grain, sectorSize } = placement;
  const needed = alignUp(misfit.shortBy, grain.sectors);
  return misfit.couldGive
    .filter((one) => one.sectors >= needed)
    .slice(0, 2)
    .map(({ id }) => {
      const size = exactText((placedOf(placement, id).sectors - needed) * sectorSize, sectorSize);
      return changing(`Make ${nameOf(placement, id)} ${size}`, id, { size });
    });
}

function couldGiveText(placement: Placement, misfit: Misfit): string {
  const [first, second] = misfit.couldGive;
  if (!first) return 'None of its slots has a size of its own that could give way.';
  const format = (one: { id: string; sectors: number }) =>
    `${nameOf(placement, one.id)} could give up to ${inBoth(one.sectors * placement.sectorSize)}`;
  return `${[first, second]
    .filter((one) => one !== undefined)
    .map(format)
    .join('; ')}.`;
}

/** The next size that such media are sold in, where the layout is for any medium of its size. */
function largerMedium({ layout, medium }: Placement): Remedy[] {
  const next = nextNominal(layout);
  if (!next) return [];
  return [
    {
      label: `Design for any ${next} ${KIND_NAMES[medium.kind]}`,
      edit: {
        do: 'change layout',
        patch: { medium: { ...layout.medium, capacity: { ...layout.medium.capacity, nominal: next } } },
      },
    },
  ];
}

function takeWhatIsLeft(placement: Placement, id: string, misfit: Misfit): Remedy[] {
  const last = placedOf(placement, id);
  if (last.rule?.kind !== 'exact' || last.sectors - placement.grain.sectors < misfit.shortBy) return [];
  return [changing(`Let ${last.slot.name} take the rest`, id, { size: 'rest' })];
}

/** Grains to try where the one in force costs the room, in bytes. */
const FINER = [MIB, 64 * 1024, 4096, 512];

/** A smaller grain, or records without one, where with them everything lies inside. */
const packing: (placement: Placement) => readonly Remedy[] = once((placement) => {
  const { layout, grain, medium, sectorSize } = placement;
  const fits = (patch: Partial<Layout>) => place({ ...layout, ...patch }, placement.contents).misfits.length === 0;
  const change = (label: string, patch: Partial<Pick<Layout, 'grain' | 'table'>>): Remedy[] =>
    fits(patch) ? [{ label, edit: { do: 'change layout', patch } }] : [];
  const { table } = layout;
  const hasLogical = placement.placed.some((one) => one.recordAt !== undefined);
  const packed =
    table.kind === 'mbr' && !table.packed && hasLogical
      ? change('Write the records of logical partitions directly before them', { table: { ...table, packed: true } })
      : [];
  const byRule = grain.rule === 'cylinders' ? change('Use the grain by rule', { grain: undefined }) : [];
  const finer = FINER.filter((bytes) => bytes < grain.bytes && bytes % medium.physicalSector === 0)
    .map((bytes) => exactText(bytes, sectorSize))
    .find((text) => fits({ grain: text }));
  const smaller = finer === undefined ? [] : change(`Use a grain of ${finer}`, { grain: finer });
  return [...byRule, ...packed, ...(byRule.length > 0 ? [] : smaller)];
});

/** True where nothing lies over the fixed place that ends a run: the document only names what is behind it first. */
function isOnlyOrder(placement: Placement, { against, slots }: Misfit): boolean {
  if (against.kind !== 'pinned' && against.kind !== 'raw') return false;
  const fixed = placedOf(placement, against.id);
  const end = fixed.start + fixed.sectors;
  return slots.every((id) => {
    const one = placedOf(placement, id);
    return (one.recordAt ?? one.start) >= end;
  });
}

const outOfOrder = rule('size/fixed-places-out-of-order', 'stop', (placement) =>
  placement.misfits.flatMap((misfit): Occurrence[] => {
    const { against, slots } = misfit;
    if (!isOnlyOrder(placement, misfit) || against.kind === 'medium') return [];
    const [fixed, first] = [placedOf(placement, against.id), placedOf(placement, slots[0]!)];
    return [
      {
        place: atSlot(against.id),
        sentence: `${fixed.slot.name} stands at sector ${grouped(fixed.start)}, ahead of ${first.slot.name} at ${grouped(first.start)}, and the document names it behind.`,
        why: 'Slots follow each other in the order of the document; what comes next would be laid over others.',
        remedies: [
          {
            label: `Put ${fixed.slot.name} before ${first.slot.name}`,
            edit: { do: 'move slot', id: against.id, index: indexOfSlot(placement, first.slot.id) },
          },
        ],
      },
    ];
  }),
);

const doesNotFit = rule('size/larger-than-the-medium', 'stop', (placement) =>
  placement.misfits
    .filter(({ against }) => against.kind === 'medium')
    .map((misfit): Occurrence => {
      const last = misfit.slots.at(-1)!;
      const short = misfit.shortBy * placement.sectorSize;
      return {
        place: atSlot(last),
        sentence: `The layout is ${inBoth(short)} (${sectorCount(misfit.shortBy)}) larger than the medium. ${couldGiveText(placement, misfit)}`,
        why: 'What lies behind the last sector cannot be written.',
        remedies: [
          ...givingRemedies(placement, misfit),
          ...takeWhatIsLeft(placement, last, misfit),
          ...packing(placement),
          ...largerMedium(placement),
        ],
      };
    }),
);

const overRawRange = rule('size/over-raw-range', 'stop', (placement) =>
  placement.misfits.flatMap((misfit): Occurrence[] => {
    if (misfit.against.kind !== 'raw' || isOnlyOrder(placement, misfit)) return [];
    const rawId = misfit.against.id;
    const raw = nameOf(placement, rawId);
    const last = misfit.slots.at(-1)!;
    const index = placement.layout.slots.findIndex((slot) => slot.id === misfit.slots[0]);
    return [
      {
        place: atSlot(last),
        sentence: `${nameOf(placement, last)} reaches ${inBoth(misfit.shortBy * placement.sectorSize)} (${sectorCount(misfit.shortBy)}) past the start of ${raw}, which stands at a fixed place.`,
        why: 'Whichever is written last destroys the other.',
        remedies: [
          {
            label: `Place ${misfit.slots.length === 1 ? nameOf(placement, last) : 'these slots'} behind ${raw}`,
            edit: { do: 'move slot', id: rawId, index },
          },
          ...givingRemedies(placement, misfit),
          ...packing(placement),
        ],
      },
    ];
  }),
);

const overPinned = rule('size/over-pinned-slot', 'stop', (placement) =>
  placement.misfits.flatMap((misfit): Occurrence[] => {
    if (misfit.against.kind !== 'pinned' || isOnlyOrder(placement, misfit)) return [];
    const { id } = misfit.against;
    const last = misfit.slots.at(-1)!;
    return [
      {
        place: atSlot(last),
        sentence: `${nameOf(placement, last)} reaches ${inBoth(misfit.shortBy * placement.sectorSize)} (${sectorCount(misfit.shortBy)}) past sector ${grouped(placedOf(placement, id).start)}, where ${nameOf(placement, id)} is pinned.`,
        why: 'Two slots cannot have the same sectors.',
        remedies: [
          changing(`Let ${nameOf(placement, id)} follow what lies before it`, id, { at: undefined }),
          ...givingRemedies(placement, misfit),
          ...packing(placement),
        ],
      },
    ];
  }),
);

const pastPosition = rule('size/past-its-position', 'stop', (placement) =>
  placement.misfits.flatMap((misfit): Occurrence[] => {
    if (misfit.against.kind !== 'position') return [];
    const { id } = misfit.against;
    const placed = placedOf(placement, id);
    if (placed.rule?.kind !== 'ending') return [];
    const { sectorSize, grain } = placement;
    const end = alignUp(placed.start + Math.max(placed.sectors, grain.sectors), grain.sectors);
    const later = `ending at ${exactText(end * sectorSize, sectorSize)}`;
    return [
      {
        place: atSlot(id),
        sentence: `${nameOf(placement, id)} is to be “${nameSize(placed)}”, but it and what lies before it need ${inBoth(misfit.shortBy * sectorSize)} (${sectorCount(misfit.shortBy)}) more.`,
        why: 'It would end before it begins.',
        remedies: [changing(`Let it be ${later}`, id, { size: later }), ...givingRemedies(placement, misfit)],
      },
    ];
  }),
);

function nameSize({ slot }: Placed): string {
  return slot.kind === 'raw' ? slot.length : slot.size;
}

const beforeUsable = rule('size/outside-the-usable-range', 'stop', (placement) => {
  const { usable, sectorSize, grain, layout } = placement;
  return placement.placed.flatMap((one): Occurrence[] => {
    const first = one.recordAt ?? one.start;
    if (one.startReason.rule !== 'pinned' || first >= usable.first) return [];
    const start = alignUp(usable.first, grain.sectors);
    const at = exactText(start * sectorSize, sectorSize);
    return [
      {
        place: atSlot(one.slot.id),
        sentence: `${one.slot.name} is pinned to sector ${grouped(one.start)}; ${layout.table.kind === 'gpt' ? 'the table' : 'sector 0'} leaves the sectors from ${grouped(usable.first)} on${one.recordAt === undefined ? '' : ', and its record stands before it'}.`,
        why: 'A partition over its table destroys it.',
        remedies: [
          changing(`Let ${one.slot.name} follow what lies before it`, one.slot.id, { at: undefined }),
          ...(one.recordAt === undefined ? [changing(`Pin it to ${at}`, one.slot.id, { at })] : []),
        ],
      },
    ];
  });
});

const boundsOffGrain = rule('size/no-grain-within-its-bounds', 'stop', (placement) => {
  const { grain, sectorSize } = placement;
  return placement.placed.flatMap((one): Occurrence[] => {
    const { slot, rule } = one;
    if (slot.kind === 'raw' || rule?.kind !== 'rest' || !rule.atMost) return [];
    const most = amountInSectors(rule.atMost, sectorSize);
    const least = rule.atLeast ? amountInSectors(rule.atLeast, sectorSize) : 1;
    const lowest = Math.ceil(least / grain.sectors) * grain.sectors;
    if (lowest <= most) return [];
    const format = (sectors: number) => exactText(sectors * sectorSize, sectorSize);
    const bounded = `rest${rule.weight === 1 ? '' : ` × ${rule.weight}`}${rule.atLeast ? `, at least ${format(least)}` : ''}, at most ${format(lowest)}`;
    return [
      {
        place: atSlot(slot.id),
        sentence: `${slot.name} is to be “${slot.size}”, and no multiple of the grain of ${inBoth(grain.bytes)} lies within: the next one is ${inBoth(lowest * sectorSize)}.`,
        why: 'Shares come in whole grains; it would get more than it may have.',
        remedies: [
          changing(`Make ${slot.name} ${format(most)} exactly`, slot.id, { size: format(most) }),
          changing(`Let it be “${bounded}”`, slot.id, { size: bounded }),
        ],
      },
    ];
  });
});

const memoryNotSaid = rule('size/memory-not-said', 'stop', (placement) => {
  const { layout, figures } = placement;
  if (figures.memory !== undefined) return [];
  const sizes = ['4 GiB', '8 GiB', '16 GiB'];
  return placement.placed.flatMap((one): Occurrence[] =>
    one.rule?.kind === 'memory'
      ? [
          {
            place: atSlot(one.slot.id),
            sentence: `${one.slot.name} is to be “${nameSize(one)}” large, and the layout does not say how much memory the machine has: ${inBoth(one.sectors * placement.sectorSize)} stand in for it.`,
            why: 'The size cannot be computed.',
            remedies: sizes.map((memory) => ({
              label: `The machine has ${memory}`,
              edit: machineEdit(layout, { memory }),
            })),
          },
        ]
      : [],
  );
});

const imageNotNamed = rule('size/image-not-named', 'stop', ({ placed, sectorSize }) =>
  placed
    .filter(({ slot, rule }) => rule?.kind === 'image' && preparedBytes(slot) === undefined)
    .map(({ slot, sectors }) => {
      const own = exactText(sectors * sectorSize, sectorSize);
      return {
        place: atSlot(slot.id),
        sentence: `${slot.name} is to be as large as its image, and none is put into it: ${inBoth(sectors * sectorSize)} stand in for it.`,
        why: 'The size cannot be computed.',
        remedies: [
          changing(`Make ${slot.name} ${own}`, slot.id, { size: own }),
          changing(`Let ${slot.name} take the rest`, slot.id, { size: 'rest' }),
        ],
      };
    }),
);

const sameAsNobody = rule('size/same-as-nobody', 'stop', (placement) => {
  const { layout, sectorSize } = placement;
  return placement.placed.flatMap((one): Occurrence[] => {
    const { slot, rule } = one;
    if (slot.kind === 'raw' || rule?.kind !== 'same' || sizeRootOf(layout, slot)) return [];
    const isThere = layout.slots.some((other) => other.name === rule.as);
    const other = layout.slots.find((each) => each.id !== slot.id && each.kind === slot.kind);
    const own = exactText(one.sectors * sectorSize, sectorSize);
    return [
      {
        place: atSlot(slot.id),
        sentence: isThere
          ? `${slot.name} is to be as large as ${rule.as}, and that one, in the end, as large as ${slot.name}.`
          : `${slot.name} is to be as large as “${rule.as}”, and none of the ${counted(layout.slots.length, 'slot')} has that name.`,
        why: 'The size cannot be computed.',
        remedies: [
          changing(`Make ${slot.name} ${own}`, slot.id, { size: own }),
          ...(other ? [changing(`Let ${slot.name} take the rest`, slot.id, { size: 'rest' })] : []),
        ],
      },
    ];
  });
});

const legacyOnLarge = rule('size/cylinders-on-4096-byte-sectors', 'risk', (placement) => {
  const { medium, grain } = placement;
  if (grain.rule !== 'cylinders' || medium.physicalSector !== 4096) return [];
  return [
    {
      place: { kind: 'medium' },
      sentence: `Slots begin on cylinders of ${grouped(grain.sectors)} sectors, on a medium with physical sectors of ${grouped(medium.physicalSector)} bytes.`,
      why: 'Hardly a cylinder begins on a physical sector, so that every write becomes reading, changing and writing back.',
      remedies: [
        {
          label: 'Use the grain by rule',
          edit: { do: 'change layout', patch: { grain: undefined } },
        },
      ],
    },
  ];
});

export const SIZE_RULES: readonly Rule[] = [
  doesNotFit,
  boundsOffGrain,
  outOfOrder,
  overRawRange,
  overPinned,
  pastPosition,
  beforeUsable,
  memoryNotSaid,
  imageNotNamed,
  sameAsNobody,
  legacyOnLarge,
];
