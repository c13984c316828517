/** Swap space, as the document says it. */
import * as z from 'zod';
import { guid, label } from '../fields';
import { PAGE_SIZES } from './format';

/** Bytes of a memory page. */
export const pageSize = z.union(PAGE_SIZES.map((size) => z.literal(size)));

export const swapShape = z.strictObject({
  kind: z.literal('swap'),
  label,
  uuid: guid,
  /** That of the machine where it is not said. */
  pageSize: pageSize.optional(),
});

export type SwapContent = z.infer<typeof swapShape>;
