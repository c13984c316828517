/** Findings about where things lie. */
import { newSlotId } from '../layout/edits';
import { grainFor } from '../medium/grain';
import { KIND_NAMES } from '../medium/medium';
import { lastSector, type Misfit, type Placement } from '../placement/placement';
import { alignUp } from '../quantity/integers';
import { exactText, grouped, inBoth, sectorCount } from '../quantity/units';
import { atSlot, changing, type Finding, partitionsOf, type Remedy, type Rule } from './finding';

/** Share of the medium that may lie free without a word. */
const FREE_SHARE = 0.05;

function nameOf(placement: Placement, id: string): string {
  return placement.layout.slots.find((slot) => slot.id === id)?.name ?? id;
}

/** Ways out of a misfit: the slots that alone could give enough. */
function givingRemedies(placement: Placement, misfit: Misfit): Remedy[] {
  const { grain, sectorSize, placed } = placement;
  const needed = alignUp(misfit.shortBy, grain.sectors);
  return misfit.couldGive
    .filter((one) => one.sectors >= needed)
    .slice(0, 2)
    .map(({ id }) => {
      const sectors = placed.find((one) => one.slot.id === id)!.sectors - needed;
      const size = exactText(sectors * sectorSize, sectorSize);
      return changing(`Make ${nameOf(placement, id)} ${size}`, id, { size });
    });
}

function couldGiveText(placement: Placement, misfit: Misfit): string {
  const [first, second] = misfit.couldGive;
  if (!first) return 'None of its slots has an exact size that could give way.';
  const say = (one: { id: string; sectors: number }) =>
    `${nameOf(placement, one.id)} could give up to ${inBoth(one.sectors * placement.sectorSize)}`;
  return `${[first, second]
    .filter((one) => one !== undefined)
    .map(say)
    .join('; ')}.`;
}

const doesNotFit: Rule = (placement) =>
  placement.misfits
    .filter(({ against }) => against.kind === 'medium')
    .map((misfit): Finding => {
      const last = misfit.slots[misfit.slots.length - 1]!;
      const short = misfit.shortBy * placement.sectorSize;
      return {
        rule: 'place/does-not-fit',
        severity: 'stop',
        place: atSlot(last),
        sentence: `The layout is ${inBoth(short)} (${sectorCount(misfit.shortBy)}) larger than the medium. ${couldGiveText(placement, misfit)}`,
        why: 'What lies behind the last sector cannot be written.',
        remedies: [...givingRemedies(placement, misfit), ...takeWhatIsLeft(placement, last, misfit)],
      };
    });

function takeWhatIsLeft(placement: Placement, id: string, misfit: Misfit): Remedy[] {
  const last = placement.placed.find((one) => one.slot.id === id)!;
  if (last.rule?.kind !== 'exact' || last.sectors - placement.grain.sectors < misfit.shortBy) return [];
  return [changing(`Let ${last.slot.name} take the rest`, id, { size: 'rest' })];
}

const overRawRange: Rule = (placement) =>
  placement.misfits.flatMap((misfit): Finding[] => {
    if (misfit.against.kind !== 'raw') return [];
    const rawId = misfit.against.id;
    const raw = nameOf(placement, rawId);
    const last = misfit.slots[misfit.slots.length - 1]!;
    const index = placement.layout.slots.findIndex((slot) => slot.id === misfit.slots[0]);
    return [
      {
        rule: 'place/over-raw-range',
        severity: 'stop',
        place: atSlot(last),
        sentence: `${nameOf(placement, last)} reaches ${inBoth(misfit.shortBy * placement.sectorSize)} (${sectorCount(misfit.shortBy)}) past the start of ${raw}, which stands at a fixed place.`,
        why: 'Whichever is written last destroys the other.',
        remedies: [
          {
            label: `Place ${misfit.slots.length === 1 ? nameOf(placement, last) : 'these slots'} behind ${raw}`,
            edit: { do: 'move slot', id: rawId, index },
          },
          ...givingRemedies(placement, misfit),
        ],
      },
    ];
  });

/** Back to the grain by rule. */
function automaticGrain(placement: Placement): Remedy[] {
  if (placement.grain.rule !== 'chosen') return [];
  const byRule = grainFor(placement.medium);
  const text = exactText(byRule.bytes, placement.sectorSize);
  return [{ label: `Use the grain by rule, ${text}`, edit: { do: 'change layout', patch: { grain: undefined } } }];
}

const offPhysicalSector: Rule = (placement) => {
  const { medium, sectorSize } = placement;
  return partitionsOf(placement)
    .filter(({ start }) => (start * sectorSize) % medium.physicalSector !== 0)
    .map(({ slot, start }) => ({
      rule: 'place/off-physical-sector',
      severity: 'risk',
      place: atSlot(slot.id),
      sentence: `${slot.name} starts at sector ${grouped(start)}, ${grouped((start * sectorSize) % medium.physicalSector)} bytes into a physical sector of ${grouped(medium.physicalSector)} bytes.`,
      why: 'Every small write would read, change and write back a whole physical sector.',
      remedies: automaticGrain(placement),
    }));
};

const offWriteUnit: Rule = (placement) => {
  const { medium, sectorSize } = placement;
  if (medium.writeUnit === 0) return [];
  return partitionsOf(placement)
    .filter(({ start }) => (start * sectorSize) % medium.writeUnit !== 0)
    .map(({ slot, start }) => ({
      rule: 'place/off-write-unit',
      severity: 'risk',
      place: atSlot(slot.id),
      sentence: `${slot.name} starts ${inBoth((start * sectorSize) % medium.writeUnit)} into a write unit of ${inBoth(medium.writeUnit)}.`,
      why: 'Flash rewrites whole units; a start inside one makes writes slower and wears it sooner.',
      remedies: automaticGrain(placement),
    }));
};

const belowUsualGrain: Rule = (placement) => {
  const { grain, medium } = placement;
  const usual = grainFor(medium);
  if (grain.rule !== 'chosen' || grain.bytes % usual.bytes === 0) return [];
  return [
    {
      rule: 'place/unusual-grain',
      severity: 'note',
      place: { kind: 'medium' },
      sentence: `The chosen grain of ${inBoth(grain.bytes)} is off the usual ${inBoth(usual.bytes)} for this ${KIND_NAMES[medium.kind]}.`,
      why: `By rule: ${usual.because}.`,
      remedies: automaticGrain(placement),
    },
  ];
};

const endOffGrain: Rule = (placement) => {
  const { grain, sectorSize, sectors } = placement;
  return partitionsOf(placement).flatMap((one): Finding[] => {
    const { slot, start, sectors: length, rule } = one;
    const over = (start + length) % grain.sectors;
    if (rule?.kind !== 'exact' || over === 0 || lastSector(one) >= sectors) return [];
    const rounded = exactText((length + grain.sectors - over) * sectorSize, sectorSize);
    return [
      {
        rule: 'place/end-off-grain',
        severity: 'note',
        place: atSlot(slot.id),
        sentence: `${slot.name} ends at sector ${grouped(lastSector(one))}, ${sectorCount(grain.sectors - over)} before the next grain.`,
        why: 'What lies between its end and the next slot is lost.',
        remedies: [changing(`Make ${slot.name} ${rounded}`, slot.id, { size: rounded })],
      },
    ];
  });
};

const unclaimed: Rule = (placement) => {
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
      rule: 'place/unclaimed-space',
      severity: 'note',
      place: { kind: 'medium' },
      sentence: `${inBoth(free * sectorSize)} (${sectorCount(free)}, ${Math.round((free / sectors) * 100)} % of the medium) is claimed by no slot.`,
      why: 'Nothing says that it is wanted so.',
      remedies: atEnd ? [...grow, keep] : [],
    },
  ];
};

const nothingYet: Rule = ({ layout }) => {
  if (layout.slots.length > 0) return [];
  return [
    {
      rule: 'place/nothing-yet',
      severity: 'note',
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
};

export const PLACE_RULES: readonly Rule[] = [
  doesNotFit,
  overRawRange,
  offPhysicalSector,
  offWriteUnit,
  belowUsualGrain,
  endOffGrain,
  unclaimed,
  nothingYet,
];
