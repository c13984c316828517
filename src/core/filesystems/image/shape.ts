/** A prepared image of a file system, put in as it is. */
import * as z from 'zod';
import { stored } from '../fields';

export const imageShape = stored.extend({
  kind: z.literal('image'),
  /** Its header is made to say where it lies. */
  hidden: z.literal('corrected').optional(),
});

export type ImageContent = z.infer<typeof imageShape>;
