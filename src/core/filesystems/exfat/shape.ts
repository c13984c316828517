/** An exFAT file system, as the document says it. */
import * as z from 'zod';
import { files, label, sizeText, volumeId } from '../fields';

export const exfatShape = z.strictObject({
  kind: z.literal('exfat'),
  cluster: sizeText('exact-size').optional(),
  label,
  volumeId,
  ...files,
});

export type ExfatContent = z.infer<typeof exfatShape>;
