import type { BuildView } from '@/contract/builds';
import { GIB, inBinary } from '@/core/quantity/units';

/** An image of so many bytes is worth a word before it is fetched, where so small a part of it is data. */
const LARGE = GIB;
const PART = 1 / 4;

/** What to say of an image that is mostly zeros before all of it is sent; undefined for others. */
export function zerosOf({ size, report }: Pick<BuildView, 'size' | 'report'>): string | undefined {
  const data = report?.change?.allocated.made ?? report?.writtenBytes;
  if (data === undefined || size < LARGE || data > size * PART) return undefined;
  return `${inBinary(data)} of it are data: gzip sends those, the image as it is all ${inBinary(size)}, zeros too.`;
}
