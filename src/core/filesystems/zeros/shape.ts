/** Zeros over the whole partition. */
import * as z from 'zod';

export const zerosShape = z.strictObject({ kind: z.literal('zeros') });

export type ZerosContent = z.infer<typeof zerosShape>;
