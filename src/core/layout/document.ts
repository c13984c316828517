/**
 * The layout document: what should be there, said once and placed on any medium.
 * The shape below is the only description of it: the TypeScript types, the validation and
 * the published JSON Schema are all taken from it. Keys are written in the order given here.
 */
import { z } from 'zod';
import { PADDINGS } from '../filesystems/fat/geometry';
import { PAGE_SIZES } from '../filesystems/swap';
import { SHA256 } from '../filesystems/tree';
import { BOARD_FAMILIES, FIRST_RULES } from '../medium/boards';
import { MEDIUM_KINDS } from '../medium/medium';
import { parseExact, parseSize, SIZE_TEXT_LIMIT } from '../quantity/size-language';
import { ATTRIBUTES } from '../tables/gpt';
import {
  BIOS_WALL_NAMES,
  BOOTS,
  CONTAINER_TYPES,
  CYLINDERS,
  FILE_SYSTEMS,
  HYBRID_LIMIT,
  LAYOUT_NAME_LIMIT,
  LOADERS,
  MOUNT_POINT,
  REASON_LIMIT,
  ROLES,
  SIGNATURE,
  SLOT_LIMIT,
  SLOT_NAME_LIMIT,
  TABLES,
  TYPE_CODE,
  USES,
  VOLUME_ID,
} from './vocabulary';

/** Newest version of the document that this program reads and the only one it writes. */
export const LAYOUT_VERSION = 1;
/** Most accepted risks of a layout. */
const ACCEPTED_LIMIT = 512;

/** One line of visible text. */
const LINE = /^[^\p{Cc}\p{Zl}\p{Zp}]*$/u;
const line = (most: number) => z.string().min(1).max(most).regex(LINE, 'must be one line without control characters');

/** A size text; `reader` decides which part of the size language is allowed here. */
const sizeText = (format: 'size' | 'exact-size') => {
  const reader = format === 'size' ? parseSize : parseExact;
  return (
    z
      .string()
      .min(1)
      .max(SIZE_TEXT_LIMIT)
      // One line without blanks around it, so that it can stand in a slot line.
      .overwrite((text) => text.replace(/[\t-\r\u2028\u2029]+/g, ' ').trim())
      .superRefine((text, context) => {
        const read = reader(text);
        if (!read.ok)
          context.addIssue({ code: 'custom', message: `${read.error.message} (character ${read.error.at + 1})` });
      })
      .meta({ format: `loess-${format}` })
  );
};

const sectorSize = z.union([z.literal(512), z.literal(4096)]);
const slotId = z.string().regex(/^[a-z][a-z0-9-]{0,31}$/, 'must be lower-case letters, digits and dashes');

const capacity = z.union([
  z.strictObject({ nominal: sizeText('exact-size'), floor: z.int().min(50).max(100).optional() }),
  z.strictObject({ exact: sizeText('exact-size') }),
]);

const medium = z.strictObject({
  kind: z.enum(MEDIUM_KINDS),
  capacity,
  logicalSector: sectorSize,
  physicalSector: sectorSize,
  writeUnit: sizeText('exact-size').optional(),
  optimalIo: sizeText('exact-size').optional(),
  /** Of an image file: the sector size of the device that it will be copied to. */
  goesOnto: sectorSize.optional(),
});

const place = sizeText('exact-size').or(z.literal('0'));
const pageSize = z.union(PAGE_SIZES.map((size) => z.literal(size)));

/** A board: one of the families that are known here, or a profile of one's own. */
const board = z.union([
  z.strictObject({ family: z.enum(BOARD_FAMILIES) }),
  z.strictObject({
    name: line(SLOT_NAME_LIMIT),
    source: z.string().max(200).regex(LINE, 'must be one line without control characters').optional(),
    ranges: z
      .array(
        z.strictObject({
          name: line(SLOT_NAME_LIMIT),
          at: place,
          length: sizeText('exact-size'),
          /** The ROM looks here too, and needs only one of them. */
          instead: z.literal(true).optional(),
        }),
      )
      .max(16),
    tables: z.array(z.enum(TABLES)).min(1).max(TABLES.length),
    first: z.enum(FIRST_RULES),
  }),
]);

/** What is known about the machine, as far as the layout depends on it. */
const machine = z.strictObject({
  use: z.enum(USES).optional(),
  memory: sizeText('exact-size').optional(),
  hibernates: z.literal(true).optional(),
  /** On another disk, or in what stays on this medium as it is. */
  esp: z.enum(['elsewhere', 'kept']).optional(),
  root: z.literal('elsewhere').optional(),
  loader: z.enum(LOADERS).optional(),
  biosWall: z.enum(BIOS_WALL_NAMES).optional(),
  board: board.optional(),
  /** Bytes of a memory page of its kernel. */
  pageSize: pageSize.optional(),
});

/** A GUID in either case; it is kept in lower case. */
const anyGuid = (message: string) =>
  z
    .string()
    .regex(/^[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}$/, message)
    .overwrite((text) => text.toLowerCase());
const guid = anyGuid('must be a GUID');

const sha256 = z.string().regex(SHA256, 'must be a SHA-256, 64 hexadecimal digits in lower case');

/** A file that a person supplied, known by its content; the name is for people. */
const stored = z.strictObject({ sha256, name: line(255), size: z.int().min(0) });

/** A part of a supplied file: from a byte on, and so many of them; without figures the whole. */
const storedPart = stored.extend({ from: z.int().min(0).optional(), take: z.int().min(1).optional() });

const volumeId = z.string().regex(VOLUME_ID, 'must be eight hexadecimal digits, as in 3A1F-77C0');
const anyLabel = z.string().max(64).regex(LINE, 'must be one line without control characters').optional();

/** Files of a volume: the SHA-256 of the text of their tree, and whose times they have. */
const filling = { files: sha256.optional(), times: z.literal('of the files').optional() };

/** What is in a partition instead of a FAT file system. */
const content = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('exfat'),
    cluster: sizeText('exact-size').optional(),
    label: anyLabel,
    volumeId,
    ...filling,
  }),
  z.strictObject({ kind: z.literal('swap'), label: anyLabel, uuid: guid, pageSize: pageSize.optional() }),
  /** A prepared image of a file system, put in as it is; on request with the place written into its header. */
  stored.extend({ kind: z.literal('image'), hidden: z.literal('corrected').optional() }),
  stored.extend({ kind: z.literal('blob') }),
  z.strictObject({ kind: z.literal('overwritten') }),
]);

const fileSystem = z.strictObject({
  kind: z.enum(FILE_SYSTEMS),
  cluster: sizeText('exact-size').optional(),
  rootEntries: z.int().min(1).max(65_535).optional(),
  padding: z.enum(PADDINGS).optional(),
  label: anyLabel,
  volumeId,
  ...filling,
  /** Boot code for its boot sector. */
  code: stored.optional(),
});

/** Where a slot stands, beside its size: pinned, on a grain of its own, ending on it. */
const placing = {
  at: place.optional(),
  grain: sizeText('exact-size').optional(),
  endsOnGrain: z.literal(true).optional(),
};

const partition = z.strictObject({
  id: slotId,
  kind: z.literal('partition'),
  name: line(SLOT_NAME_LIMIT),
  role: z.enum(ROLES),
  size: sizeText('size'),
  ...placing,
  logical: z.literal(true).optional(),
  type: z
    .union([
      z.string().regex(TYPE_CODE, 'must be two hexadecimal digits, 01 to FF'),
      anyGuid('must be two hexadecimal digits, 01 to FF, or a GUID'),
    ])
    .optional(),
  partitionId: guid.optional(),
  attributes: z.array(z.enum(ATTRIBUTES)).max(ATTRIBUTES.length).optional(),
  active: z.literal(true).optional(),
  fileSystem: fileSystem.optional(),
  content: content.optional(),
  mount: z.string().max(200).regex(MOUNT_POINT, 'must be a path that begins with /').optional(),
});

const raw = z.strictObject({
  id: slotId,
  kind: z.literal('raw'),
  name: line(SLOT_NAME_LIMIT),
  at: place,
  length: sizeText('exact-size'),
  blob: storedPart.optional(),
});

const free = z.strictObject({
  id: slotId,
  kind: z.literal('free'),
  name: line(SLOT_NAME_LIMIT),
  size: sizeText('size'),
  ...placing,
});

const table = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('mbr'),
    signature: z.string().regex(SIGNATURE, 'must be eight hexadecimal digits in lower case'),
    /** Records of logical partitions directly before their partition, not a grain before it. */
    packed: z.literal(true).optional(),
    containerType: z.enum(CONTAINER_TYPES).optional(),
    /** Boot code for sector 0: 440 bytes at most, or a whole sector of which the first 440 are taken. */
    code: storedPart.optional(),
  }),
  z.strictObject({
    kind: z.literal('gpt'),
    diskId: guid,
    entries: z.int().min(4).max(1024).optional(),
    /** First byte of the array of entries. */
    array: sizeText('exact-size').optional(),
    /** Slots that the protective sector shows too. */
    hybrid: z.array(slotId).min(1).max(HYBRID_LIMIT).optional(),
    markProtective: z.literal(true).optional(),
    code: storedPart.optional(),
  }),
  z.strictObject({ kind: z.literal('none') }),
]);

/** A risk that a person took, with the reason. It holds for the sentence as it was then. */
const accepted = z.strictObject({
  rule: z.string().regex(/^[a-z]+\/[a-z0-9-]{1,60}$/, 'must be the name of a rule, as in boot/no-active-mark'),
  slot: slotId.optional(),
  sentence: line(600),
  reason: line(REASON_LIMIT),
});

/** The document as a whole. */
export const layoutShape = z.strictObject({
  format: z.literal('loess-layout'),
  version: z.literal(LAYOUT_VERSION),
  name: line(LAYOUT_NAME_LIMIT),
  story: z.string().max(400).regex(LINE, 'must be one line without control characters').optional(),
  date: z
    .string()
    .regex(
      /^(19[89]\d|20\d\d|210[0-7])-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])T([01]\d|2[0-3]):[0-5]\d:[0-5]\d$/,
      'must be a date and time between 1980 and 2107, as in 2026-03-01T12:00:00',
    ),
  medium,
  boots: z.array(z.enum(BOOTS)).max(BOOTS.length),
  machine: machine.optional(),
  table,
  grain: z.union([sizeText('exact-size'), z.literal(CYLINDERS)]).optional(),
  slots: z.array(z.discriminatedUnion('kind', [partition, raw, free])).max(SLOT_LIMIT),
  accepted: z.array(accepted).max(ACCEPTED_LIMIT).optional(),
});

export type Layout = z.infer<typeof layoutShape>;
export type Slot = Layout['slots'][number];
export type PartitionSlot = Extract<Slot, { kind: 'partition' }>;
export type RawSlot = Extract<Slot, { kind: 'raw' }>;
export type FreeSlot = Extract<Slot, { kind: 'free' }>;
export type FileSystem = NonNullable<PartitionSlot['fileSystem']>;
export type Content = NonNullable<PartitionSlot['content']>;
export type ExfatContent = Extract<Content, { kind: 'exfat' }>;
export type SwapContent = Extract<Content, { kind: 'swap' }>;
export type ImageContent = Extract<Content, { kind: 'image' }>;
export type Stored = z.infer<typeof stored>;
export type StoredPart = z.infer<typeof storedPart>;
export type MediumSpec = Layout['medium'];
export type Table = Layout['table'];
export type Machine = NonNullable<Layout['machine']>;
export type Board = NonNullable<Machine['board']>;
export type Accepted = NonNullable<Layout['accepted']>[number];
