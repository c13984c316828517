/** A partition that is left to its system, which may be known to make something there. */
import * as z from 'zod';
import { EXPECTED } from './expected';

export const leftShape = z.strictObject({
  kind: z.literal('left'),
  /** What its system will make. */
  expects: z.enum(EXPECTED).optional(),
});

export type LeftContent = z.infer<typeof leftShape>;
