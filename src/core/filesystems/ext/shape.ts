/** An ext file system, as the document says it. */
import * as z from 'zod';
import { files, guid, label, sizeText } from '../fields';
import { EXT_VERSIONS, PROFILES } from './words';

const owner = z.int().min(0).max(0xfffffffe);

export const extShape = z.strictObject({
  kind: z.literal('ext'),
  version: z.enum(EXT_VERSIONS),
  /** What reads it; what the version can be at most where it is not said. */
  profile: z.enum(PROFILES).optional(),
  label,
  uuid: guid,
  /** Bytes of a block. */
  block: sizeText('exact-size').optional(),
  /** Bytes of the volume for which there is one inode. */
  perInode: sizeText('exact-size').optional(),
  inodeSize: z.union([z.literal(128), z.literal(256)]).optional(),
  /** Bytes of the journal, or none. */
  journal: z.union([z.literal('none'), sizeText('exact-size')]).optional(),
  /** Per cent of the blocks that only the administrator may take. */
  reserved: z.number().min(0).max(50).optional(),
  /** Days after which a check is due; 0 for never. */
  checkDays: z.int().min(0).max(3650).optional(),
  /** Size that it can grow to while it is mounted, or none. */
  growTo: z.union([z.literal('none'), sizeText('exact-size')]).optional(),
  /** Owner of the root directory, as `USER:GROUP` in numbers. */
  rootUser: owner.optional(),
  rootGroup: owner.optional(),
  /** Inode tables beyond those used: zeros, or left to the kernel, which writes them after the first mount. */
  tables: z.literal('left to the kernel').optional(),
  ...files,
});

export type ExtContent = z.infer<typeof extShape>;
