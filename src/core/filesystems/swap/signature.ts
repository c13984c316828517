/** How swap space is recognised. */
import { content, type Recogniser, times, utf8, uuid } from '../signatures';
import { PAGE_SIZES } from './format';

/** Where the header stands, and the only version with this mark. */
const [VERSION_AT, VERSION] = [1024, 1];
const AWAKE = 'SWAPSPACE2';
/** What the kernel puts in its place while the memory of the machine lies there (kernel/power/swap.c). */
const ASLEEP = 'S1SUSPEND';

/** Swap space, by the signature at the end of its first page; of a machine that sleeps, by the one that it had before. */
export const SWAP_SIGNATURE: Recogniser = (head) => {
  const isAsleep = (size: number) => head.has(size - 10, ASLEEP) && head.has(size - 20, AWAKE);
  const page = PAGE_SIZES.find((size) => head.has(size - 10, AWAKE) || isAsleep(size));
  // The mark may be that of another area, which begins behind: only a header of this one has the version too, in the byte order
  // of its machine.
  const isLittleEndian = head.u32(VERSION_AT) === VERSION;
  if (page === undefined || !(isLittleEndian || head.u32(VERSION_AT, false) === VERSION)) return undefined;
  const label = utf8(head.slice(1052, 16));
  return content(`swap, ${page / 1024} KiB pages`, {
    label,
    id: uuid(head.slice(1036, 16)),
    size: times(head.u32(1028, isLittleEndian) + 1, page),
    state: isAsleep(page) ? 'left asleep' : undefined,
  });
};
