/** Why a boundary is where it is, in one sentence each. */
import type { RawSlot } from '../layout/document';
import { canonicalSize } from '../quantity/size-language';
import { grouped, inBinary, sectorCount } from '../quantity/units';
import type { FlowSlot } from '../layout/figures';
import { foundOf, isLocked } from '../layout/kept';
import type { Ask, Ground } from './asks';
import type { Spot } from './flow';
import type { Placed, Reason } from './placement';

const TABLE_AREAS = { mbr: 'the table in sector 0', gpt: 'the table', none: 'the start of the medium' } as const;

function lostText({ cost, recordAt, start }: Spot, ask: Ask, sectorSize: number): string {
  if (recordAt !== undefined) {
    const room = ask.packed ? 'one sector' : `${inBinary((start - recordAt) * sectorSize)}`;
    return `the record of this logical partition takes ${room} ahead of it: ${sectorCount(cost)} lost`;
  }
  if (cost === 0) return 'already on the grain, nothing lost';
  if (start === ask.firstAt)
    return `the first partition of a disk in cylinders begins at sector ${start}: ${sectorCount(cost)} lost`;
  return `rounded up to the grain of ${inBinary(ask.grain * sectorSize)}: ${sectorCount(cost)} lost`;
}

/** A reason whose sentence is made when somebody reads it: placing happens with every move of a hand, reading seldom. */
class EndReason implements Reason {
  constructor(
    readonly rule: Reason['rule'],
    readonly grain: number,
    readonly cost: number,
    private readonly sentence: () => string,
  ) {}

  get text(): string {
    return this.sentence();
  }
}

/** Why a slot starts where it does; `previous` is the slot of its run ahead of it. */
export function startReason(
  ask: Ask,
  spot: Spot,
  previous: FlowSlot | undefined,
  behind: RawSlot | undefined,
  ground: Ground,
): Reason {
  const { layout, sectorSize } = ground;
  const { grain } = ask;
  if (isLocked(ask.slot))
    return new EndReason('pinned', grain, 0, () =>
      foundOf(layout, ask.slot)?.at === spot.start
        ? `Kept at sector ${grouped(spot.start)}, where it was found; no grain applies.`
        : `Moved to sector ${grouped(spot.start)}; no grain applies.`,
    );
  if (ask.pinned !== undefined && ask.slot.at !== undefined)
    return new EndReason(
      'pinned',
      grain,
      0,
      () => `Stands at ${ask.slot.at} because the document says so; no grain applies.`,
    );
  const rule = previous ? 'behind slot' : behind ? 'behind raw range' : 'table area';
  return new EndReason(rule, grain, spot.cost, () => {
    const what = previous?.name ?? behind?.name ?? TABLE_AREAS[layout.table.kind];
    return `Follows ${what}; ${lostText(spot, ask, sectorSize)}.`;
  });
}

const BOUND_TEXTS = {
  least: { rule: 'lower bound', text: 'Its lower bound: an even share would be less than' },
  most: { rule: 'upper bound', text: 'Its upper bound: an even share would be more than' },
} as const;

function endRule({ rule }: Ask, { bound }: Spot): Reason['rule'] {
  switch (rule.kind) {
    case 'exact':
      return 'size asked';
    case 'percent':
      return 'share of the space';
    case 'memory':
      return 'memory';
    case 'same':
      return 'same as another';
    case 'image':
      return 'its image';
    case 'ending':
      return 'position';
    case 'rest':
      return bound ? BOUND_TEXTS[bound].rule : 'share of the rest';
  }
}

function endText(ask: Ask, spot: Spot, { layout, sectorSize, figures: { memory } }: Ground): string {
  const { rule, slot, wants } = ask;
  const size = inBinary(spot.sectors * sectorSize);
  if (isLocked(slot) && foundOf(layout, slot)?.sectors === spot.sectors) return `${size}, as it was found.`;
  const isRounded = typeof wants === 'number' && spot.sectors > wants;
  const rounded = isRounded ? `, its end rounded up to the grain: ${sectorCount(spot.sectors - wants)} more` : '';
  switch (rule.kind) {
    case 'exact':
      return `${size}, as asked: “${slot.size}”${rounded}${shortOfGrain(ask, spot)}.`;
    case 'percent':
      return `${size}: ${slot.size} of the space between the table areas, down to the grain${rounded}.`;
    case 'memory':
      return memory === undefined
        ? `${size}: the layout does not say how much memory the machine has.`
        : `${size}: “${slot.size}” of a machine with ${inBinary(memory)}${rounded}.`;
    case 'same':
      return `${size}, as many sectors as ${rule.as}${rounded}.`;
    case 'image':
      return `${size}, as large as what is prepared for it${rounded}.`;
    case 'ending':
      return `${size}: it reaches up to “${canonicalSize(slot.size).replace(/^\s*ending\s+at\s+/i, '')}”.`;
    case 'rest':
      if (spot.bound) return `${BOUND_TEXTS[spot.bound].text} ${size}.`;
      return `${rule.weight === 1 ? 'Its share' : `${rule.weight} shares`} of what the others leave.`;
  }
}

/** What an end off the grain costs whoever comes behind it. */
function shortOfGrain({ grain }: Ask, { start, sectors }: Spot): string {
  const over = (start + sectors) % grain;
  return over === 0 ? '' : `; what comes next begins on the grain, ${sectorCount(grain - over)} behind its end`;
}

/** Why a slot is as large as it is. */
export function endReason(ask: Ask, spot: Spot, ground: Ground): Reason {
  return new EndReason(endRule(ask, spot), ask.grain, 0, () => endText(ask, spot, ground));
}

/** Both reasons of a raw range. */
export function rawReasons(span: Placed['span'], grain: number): Pick<Placed, 'startReason' | 'endReason'> {
  const fixed = (sentence: () => string): Reason => new EndReason('fixed by the document', grain, 0, sentence);
  return {
    startReason: fixed(() => `Stands at ${inBinary(span.start)} because the document says so; no grain applies.`),
    endReason: fixed(() => `${inBinary(span.end - span.start)} long, as the document says.`),
  };
}
