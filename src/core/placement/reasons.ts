/** Why a boundary is where it is, in one sentence each. */
import type { RawSlot } from '../layout/document';
import { inBinary, sectorCount } from '../quantity/units';
import type { Ask, FlowSlot, Ground } from './asks';
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
  if (ask.pinned !== undefined && ask.slot.at !== undefined)
    return {
      rule: 'pinned',
      grain,
      cost: 0,
      text: `Stands at ${ask.slot.at} because the document says so; no grain applies.`,
    };
  const what = previous?.name ?? behind?.name ?? TABLE_AREAS[layout.table.kind];
  const rule = previous ? 'behind slot' : behind ? 'behind raw range' : 'table area';
  return { rule, grain, cost: spot.cost, text: `Follows ${what}; ${lostText(spot, ask, sectorSize)}.` };
}

const BOUND_TEXTS = {
  least: { rule: 'lower bound', text: 'Its lower bound: an even share would be less than' },
  most: { rule: 'upper bound', text: 'Its upper bound: an even share would be more than' },
} as const;

/** Why a slot is as large as it is. */
export function endReason(ask: Ask, spot: Spot, ground: Ground): Reason {
  const { rule, slot, grain } = ask;
  const size = inBinary(spot.sectors * ground.sectorSize);
  const asked = typeof ask.wants === 'number' ? ask.wants : undefined;
  const rounded =
    asked !== undefined && spot.sectors > asked
      ? `, its end rounded up to the grain: ${sectorCount(spot.sectors - asked)} more`
      : '';
  const reason = (name: Reason['rule'], text: string): Reason => ({ rule: name, grain, cost: 0, text });
  switch (rule.kind) {
    case 'exact':
      return reason('size asked', `${size}, as asked: “${slot.size}”${rounded}.`);
    case 'percent':
      return reason(
        'share of the space',
        `${size}: ${slot.size} of the space between the table areas, down to the grain${rounded}.`,
      );
    case 'memory':
      return reason(
        'memory',
        ground.memory === undefined
          ? `${size}: the layout does not say how much memory the machine has.`
          : `${size}: “${slot.size}” of a machine with ${inBinary(ground.memory)}${rounded}.`,
      );
    case 'same':
      return reason('same as another', `${size}, as many sectors as ${rule.as}${rounded}.`);
    case 'ending':
      return reason('position', `${size}: it reaches up to “${slot.size.replace(/^\s*ending\s+at\s+/i, '')}”.`);
    case 'rest': {
      if (spot.bound) {
        const { rule: name, text } = BOUND_TEXTS[spot.bound];
        return reason(name, `${text} ${size}.`);
      }
      const shares = rule.weight === 1 ? 'Its share' : `${rule.weight} shares`;
      return reason('share of the rest', `${shares} of what the others leave.`);
    }
  }
}

/** Both reasons of a raw range. */
export function rawReasons(span: Placed['span'], grain: number): Pick<Placed, 'startReason' | 'endReason'> {
  const fixed = (text: string): Reason => ({ rule: 'fixed by the document', grain, cost: 0, text });
  return {
    startReason: fixed(`Stands at ${inBinary(span.start)} because the document says so; no grain applies.`),
    endReason: fixed(`${inBinary(span.end - span.start)} long, as the document says.`),
  };
}
