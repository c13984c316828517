/** How swap space is recognised. */
import { content, type Recogniser, times, utf8, uuid } from '../signatures';
import { PAGE_SIZES } from './format';

/** Swap space, by the signature at the end of its first page. */
export const SWAP_SIGNATURE: Recogniser = (head) => {
  const page = PAGE_SIZES.find((size) => head.has(size - 10, 'SWAPSPACE2'));
  if (page === undefined) return undefined;
  const label = utf8(head.slice(1052, 16));
  return content(`swap, ${page / 1024} KiB pages`, {
    label,
    id: uuid(head.slice(1036, 16)),
    size: times(head.u32(1028) + 1, page),
  });
};
