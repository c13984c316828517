/** A FAT file system, as the document says it. */
import * as z from 'zod';
import { files, label, sizeText, stored, volumeId } from '../fields';
import { PADDINGS } from './geometry';

export const fatShape = z.strictObject({
  kind: z.literal('fat'),
  /** Left to the size where it is not said. */
  variant: z.union([z.literal(12), z.literal(16), z.literal(32)]).optional(),
  cluster: sizeText('exact-size').optional(),
  rootEntries: z.int().min(1).max(65_535).optional(),
  padding: z.enum(PADDINGS).optional(),
  label,
  volumeId,
  ...files,
  /** Boot code for its boot sector. */
  code: stored.optional(),
});

export type FatContent = z.infer<typeof fatShape>;
