/** Findings about where things lie. */
import { freeName, newSlotId } from '../../layout/edits';
import { grainFor } from '../../medium/grain';
import { KIND_NAMES } from '../../medium/medium';
import type { Placed, Placement } from '../../placement/placement';
import { exactText, grouped, inBoth, sectorCount } from '../../quantity/units';
import { atSlot, changing, type Occurrence, partitionsOf, type Remedy, type Rule, rule } from './finding';

/** Share of the medium that may lie free without a word. */
const FREE_SHARE = 0.05;

/** What puts a slot back on the usual grain: its own place, its own grain, or that of the layout. */
function backOnGrain(placement: Placement, { slot }: Placed): Remedy[] {
  if (slot.kind === 'raw') return [];
  if (slot.at !== undefined)
    return [changing(`Let ${slot.name} follow what lies before it`, slot.id, { at: undefined })];
  if (slot.grain !== undefined)
    return [changing(`Use the grain of the layout for ${slot.name}`, slot.id, { grain: undefined })];
  return automaticGrain(placement);
}

/** Back to the grain by rule. */
function automaticGrain(placement: Placement): Remedy[] {
  if (placement.grain.rule !== 'chosen' && placement.grain.rule !== 'cylinders') return [];
  const byRule = grainFor(placement.medium);
  const text = exactText(byRule.bytes, placement.sectorSize);
  return [{ label: `Use the grain by rule, ${text}`, edit: { do: 'change layout', patch: { grain: undefined } } }];
}

const offPhysicalSector = rule('place/off-physical-sector', 'risk', (placement) => {
  const { medium, sectorSize } = placement;
  return partitionsOf(placement)
    .filter(({ start }) => (start * sectorSize) % medium.physicalSector !== 0)
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, start }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} starts at sector ${grouped(start)}, ${grouped((start * sectorSize) % medium.physicalSector)} bytes into a physical sector of ${grouped(medium.physicalSector)} bytes.`,
      why: 'Every small write would read, change and write back a whole physical sector.',
      remedies: backOnGrain(placement, one),
    }));
});

const offWriteUnit = rule('place/off-write-unit', 'risk', (placement) => {
  const { medium, sectorSize } = placement;
  if (medium.writeUnit === 0) return [];
  return partitionsOf(placement)
    .filter(({ start }) => (start * sectorSize) % medium.writeUnit !== 0)
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, start }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} starts ${inBoth((start * sectorSize) % medium.writeUnit)} into a write unit of ${inBoth(medium.writeUnit)}.`,
      why: 'Flash rewrites whole units; a start inside one makes writes slower and wears it sooner.',
      remedies: backOnGrain(placement, one),
    }));
});

const belowUsualGrain = rule('place/unusual-grain', 'note', (placement) => {
  const { grain, medium } = placement;
  const usual = grainFor(medium);
  if (grain.rule !== 'chosen' || grain.bytes % usual.bytes === 0) return [];
  return [
    {
      place: { kind: 'medium' },
      sentence: `The chosen grain of ${inBoth(grain.bytes)} is off the usual ${inBoth(usual.bytes)} for this ${KIND_NAMES[medium.kind]}.`,
      why: `By rule: ${usual.because}.`,
      remedies: automaticGrain(placement),
    },
  ];
});

const unclaimed = rule('place/unclaimed-space', 'note', (placement) => {
  const { strata, sectors, sectorSize, placed, layout } = placement;
  const free = strata.reduce(
    (sum, one) => (one.kind === 'gap' && one.cause === 'unclaimed' ? sum + one.sectors : sum),
    0,
  );
  if (placed.length === 0 || free <= sectors * FREE_SHARE) return [];
  const last = partitionsOf(placement).at(-1);
  const tail = strata.at(-1);
  const atEnd = tail?.kind === 'gap' && tail.cause === 'unclaimed';
  const grow =
    last && placed.at(-1) === last
      ? [changing(`Let ${last.slot.name} take the rest`, last.slot.id, { size: 'rest' })]
      : [];
  const keep: Remedy = {
    label: 'Keep it free on purpose',
    edit: {
      do: 'add slot',
      index: layout.slots.length,
      slot: { id: newSlotId(layout), kind: 'free', name: 'Free on purpose', size: 'rest' },
    },
  };
  return [
    {
      place: { kind: 'medium' },
      sentence: `${inBoth(free * sectorSize)} (${sectorCount(free)}, ${Math.round((free / sectors) * 100)} % of the medium) is claimed by no slot.`,
      why: 'Nothing says that it is wanted so.',
      remedies: atEnd ? [...grow, keep] : [],
    },
  ];
});

const nothingYet = rule('place/nothing-yet', 'note', ({ layout }) => {
  if (layout.slots.length > 0) return [];
  return [
    {
      place: { kind: 'medium' },
      sentence: 'The layout has no slot yet.',
      why: 'A build would write an empty table.',
      remedies: [
        {
          label: 'Add a partition over the whole medium',
          edit: {
            do: 'add slot',
            index: 0,
            slot: { id: newSlotId(layout), kind: 'partition', name: 'Data', role: 'data', size: 'rest' },
          },
        },
      ],
    },
  ];
});

const sameName = rule('place/same-name', 'note', ({ layout }) => {
  const first = new Map<string, number>();
  return layout.slots.flatMap(({ id, name }, i): Occurrence[] => {
    const before = first.get(name);
    if (before === undefined) {
      first.set(name, i);
      return [];
    }
    const other = freeName(layout, name);
    return [
      {
        place: atSlot(id),
        sentence: `Slot ${i + 1} and slot ${before + 1} are both called ${name}.`,
        why: 'A size that is the same as that of a name, and PARTLABEL in a mount table, mean the first that is found.',
        remedies: [changing(`Call it ${other}`, id, { name: other })],
      },
    ];
  });
});

export const PLACE_RULES: readonly Rule[] = [
  offPhysicalSector,
  offWriteUnit,
  belowUsualGrain,
  unclaimed,
  nothingYet,
  sameName,
];
