/**
 * How the heap grows. Planning a volume of many files makes much that lives for a moment; by itself the
 * engine lets that pile up to several times of what is kept before it looks. Here it looks when a quarter came on top.
 */
import { setFlagsFromString } from 'node:v8';

export function growHeapSlowly() {
  setFlagsFromString('--heap-growing-percent=25');
}
