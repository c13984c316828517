/**
 * What a medium looked like when a layout was made from it: its size, its table, and every partition as the table had
 * it, with what was known of its inside. Sectors are those of the medium. With this in the document, placing needs no
 * survey, and a change is refused where another medium is before it.
 */
import * as z from 'zod';
import { LEFT_STATES, LINE_ERROR, ONE_LINE } from '../filesystems/fields';
import { TABLES } from './vocabulary';

/** Most partitions of a table that a layout is made from. */
export const FOUND_LIMIT = 256;
/** Longest text of what was found, in characters. */
export const FOUND_TEXT_LIMIT = 128;

const text = z.string().max(FOUND_TEXT_LIMIT).regex(ONE_LINE, LINE_ERROR);
const sector = z.int().min(0);

/** Number of a partition in its table; 0 is a medium without one. */
export const partitionNumber = z.int().min(0).max(4096);

/** What is known of the inside of a partition. */
const inside = z.strictObject({
  /** `NTFS`, `FAT32` … */
  kind: text,
  label: text.optional(),
  id: text.optional(),
  /** Bytes of the file system, by its own header, and those in use. */
  bytes: z.int().min(0).optional(),
  used: z.int().min(0).optional(),
  /** Its system did not let go of it. */
  state: z.enum(LEFT_STATES).optional(),
  /** Sectors before the volume, as its own header says. */
  hidden: z.int().min(0).optional(),
});

const partition = z.strictObject({
  number: partitionNumber,
  at: sector,
  sectors: sector,
  /** Two hexadecimal digits, or a GUID; none without a table. */
  type: z.string().max(36).optional(),
  /** Of a GPT, as the table has them; characters that cannot be shown are written as a question mark. */
  name: text.optional(),
  id: z.string().max(36).optional(),
  attributes: z.array(z.string().max(20)).max(64).optional(),
  active: z.literal(true).optional(),
  /** Sector of the record of a logical partition. */
  recordAt: sector.optional(),
  inside: inside.optional(),
});

export const foundShape = z.strictObject({
  /** Bytes. */
  size: z.int().min(0),
  table: z.enum(TABLES),
  /** Disk id of a GPT, or signature of an MBR. */
  id: z.string().max(36).optional(),
  /** The container of logical partitions. */
  container: z.strictObject({ number: partitionNumber, at: sector, sectors: sector }).optional(),
  partitions: z.array(partition).max(FOUND_LIMIT),
});
