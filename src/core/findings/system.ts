/** Findings about the system that will use the medium. */
import { isPlainFlash, KIND_NAMES } from '../medium/medium';
import { atSlot, changing, type Finding, partitionsOf, type Rule } from './finding';

const mountedTwice: Rule = (placement) => {
  const seen = new Map<string, string>();
  return partitionsOf(placement).flatMap(({ slot }): Finding[] => {
    if (slot.mount === undefined) return [];
    const first = seen.get(slot.mount);
    if (first === undefined) {
      seen.set(slot.mount, slot.name);
      return [];
    }
    return [
      {
        rule: 'system/mount-point-twice',
        severity: 'stop',
        place: atSlot(slot.id),
        sentence: `${slot.name} and ${first} are both mounted at ${slot.mount}.`,
        why: 'The second one hides the first.',
        remedies: [changing(`Leave ${slot.name} without a mount point`, slot.id, { mount: undefined })],
      },
    ];
  });
};

const swapOnFlash: Rule = (placement) => {
  const { kind } = placement.medium;
  if (!isPlainFlash(kind) && kind !== 'stick') return [];
  return partitionsOf(placement)
    .filter(({ slot }) => slot.role === 'swap')
    .map(({ slot }) => ({
      rule: 'system/swap-on-flash',
      severity: 'risk',
      place: atSlot(slot.id),
      sentence: `${slot.name} is swap on ${kind === 'on-board' ? KIND_NAMES[kind] : `a ${KIND_NAMES[kind]}`}.`,
      why: 'Swapping wears simple flash out and is slow on it; compressed memory does better.',
      remedies: [{ label: `Delete ${slot.name}`, edit: { do: 'remove slot', id: slot.id } }],
    }));
};

export const SYSTEM_RULES: readonly Rule[] = [mountedTwice, swapOnFlash];
