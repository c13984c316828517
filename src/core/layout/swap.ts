/** How much swap a machine wants, from its memory (one formula, rounded up to 256 MiB). */
import { GIB } from '../quantity/units';
import { alignUp } from '../quantity/integers';

const STEP = 2 ** 28;

function without(memory: number): number {
  if (memory <= 2 * GIB) return 2 * memory;
  return memory <= 8 * GIB ? Math.max(4 * GIB, memory) : 8 * GIB;
}

/**
 * Bytes of swap for `memory` bytes: twice the memory up to 2 GiB, then at least 4 GiB and as
 * much as the memory up to 8 GiB, then 8 GiB; with hibernation at least memory + √memory in GiB.
 */
export function swapAdvice(memory: number, hibernates: boolean): number {
  const base = without(memory);
  const image = hibernates ? memory + Math.sqrt(memory / GIB) * GIB : 0;
  return alignUp(Math.ceil(Math.max(base, image)), STEP);
}
