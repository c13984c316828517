/** A supplied file, put in as it is. */
import * as z from 'zod';
import { stored } from '../fields';

export const fileShape = stored.extend({ kind: z.literal('file') });

export type FileContent = z.infer<typeof fileShape>;
