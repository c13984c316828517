/**
 * The layout document: what should be there, said once and placed on any medium.
 * The shape below is the only description of it: the TypeScript types, the validation and
 * the published JSON Schema are all taken from it. Keys are written in the order given here.
 */
import * as z from 'zod';
import { anyGuid, guid, line, ONE_LINE, LINE_ERROR, sizeText, storedPart } from '../filesystems/fields';
import { contentShape } from '../filesystems/shapes';
import { pageSize } from '../filesystems/swap/shape';
import { BOARD_FAMILIES, FIRST_RULES } from '../medium/boards';
import { MEDIUM_KINDS } from '../medium/medium';
import { ATTRIBUTES } from '../tables/gpt';
import { foundShape, partitionNumber } from './found-shape';
import {
  BIOS_LIMIT_NAMES,
  BOOTS,
  CONTAINER_TYPES,
  CYLINDERS,
  ENTRY_ID,
  ENTRY_LIMIT,
  HYBRID_LIMIT,
  LAYOUT_NAME_LIMIT,
  LOADER_BRINGERS,
  LOADERS,
  MOUNT_OPTIONS,
  MOUNT_OPTIONS_LIMIT,
  MOUNT_POINT,
  MOUNT_TOOLS,
  NAMED_BY,
  PATH_FROM_ROOT,
  REASON_LIMIT,
  ROLES,
  SERVICE_MANAGERS,
  SLOT_LIMIT,
  SLOT_NAME_LIMIT,
  TABLES,
  USES,
  LAYOUT_VERSION,
  WRITABLE,
} from './vocabulary';

/** Most accepted risks of a layout. */
const ACCEPTED_LIMIT = 512;

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

/** A board: one of the families that are known here, or a profile of one's own. */
const board = z.union([
  z.strictObject({ family: z.enum(BOARD_FAMILIES) }),
  z.strictObject({
    name: line(SLOT_NAME_LIMIT),
    source: z.string().max(200).regex(ONE_LINE, LINE_ERROR).optional(),
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
  /** Who brings it. */
  loaderFrom: z.enum(LOADER_BRINGERS).optional(),
  biosLimit: z.enum(BIOS_LIMIT_NAMES).optional(),
  board: board.optional(),
  /** What reads its mount table, and what starts its services. */
  mountTool: z.enum(MOUNT_TOOLS).optional(),
  services: z.enum(SERVICE_MANAGERS).optional(),
  /** Bytes of a memory page of its kernel. */
  pageSize: pageSize.optional(),
});

/** Where a slot stands, beside its size: pinned, on a grain of its own, ending on it. */
const placing = {
  at: place.optional(),
  grain: sizeText('exact-size').optional(),
  endsOnGrain: z.literal(true).optional(),
};

/** What a mount table says of it, where that is not left to the rules. */
const mounting = z.strictObject({
  by: z.enum(NAMED_BY).optional(),
  /** All of the options, as they stand in the table. */
  options: z
    .string()
    .max(MOUNT_OPTIONS_LIMIT)
    .regex(MOUNT_OPTIONS, 'must be options with commas between them, without blanks')
    .optional(),
  pass: z.int().min(0).max(2).optional(),
  /** The system is to start without it too; false where it must be there. */
  mayBeAbsent: z.boolean().optional(),
  /** It stands in no mount table. */
  leftOut: z.literal(true).optional(),
});

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
      z
        .string()
        .regex(/^(0[xX])?(0[1-9a-fA-F]|[1-9a-fA-F][0-9a-fA-F])$/, 'must be two hexadecimal digits, 01 to FF')
        .overwrite((text) => text.replace(/^0x/i, '').toUpperCase()),
      anyGuid('must be two hexadecimal digits, 01 to FF, or a GUID'),
    ])
    .optional(),
  partitionId: guid.optional(),
  attributes: z.array(z.enum(ATTRIBUTES)).max(ATTRIBUTES.length).optional(),
  active: z.literal(true).optional(),
  /** What is inside; where nothing is said, it is left to its system, and a swap partition is made swap. */
  content: contentShape.optional(),
  mount: z.string().max(200).regex(MOUNT_POINT, 'must be a path that begins with /').optional(),
  mounting: mounting.optional(),
  /** The partition that was found and is kept, by its number: what is inside stays, unless the slot has content of its own. */
  keeps: partitionNumber.optional(),
  /** The ext inside a kept partition is laid anew, as long as the slot is: with inodes numbered anew, or with their numbers. */
  repack: z.enum(['renumbered', 'kept']).optional(),
  /** What is written into its files, from the layout, each time it is built. */
  writes: z.array(z.enum(WRITABLE)).min(1).max(WRITABLE.length).optional(),
});

const raw = z.strictObject({
  id: slotId,
  kind: z.literal('raw'),
  name: line(SLOT_NAME_LIMIT),
  at: place,
  length: sizeText('exact-size'),
  blob: storedPart.optional(),
  /** What lies there stays. */
  keeps: z.literal(true).optional(),
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
    signature: z
      .string()
      .regex(/^(0[xX])?[0-9a-fA-F]{8}$/, 'must be eight hexadecimal digits')
      .overwrite((text) => text.toLowerCase().replace(/^0x/, '')),
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

/** A path from the root of a file system, as boot entries name kernels. */
const pathFromRoot = z.string().max(200).regex(PATH_FROM_ROOT, 'must be a path that begins with /, without blanks');

/** One way to start: a kernel with what it needs, and the partition that becomes its root. */
const entry = z.strictObject({
  /** Name of its file, without `.conf`. */
  id: z.string().regex(ENTRY_ID, 'must be letters, digits and + _ . -'),
  title: line(SLOT_NAME_LIMIT),
  root: slotId,
  /** What the root is named by, where that is not left to the rules. */
  rootBy: z.enum(NAMED_BY).optional(),
  kernel: pathFromRoot,
  initrd: z.array(pathFromRoot).min(1).max(8).optional(),
  devicetree: pathFromRoot.optional(),
  /** The root is mounted for writing at once; for reading alone where it is missing. */
  writable: z.literal(true).optional(),
  /** More words of the command line. */
  options: z.string().max(500).regex(ONE_LINE, LINE_ERROR).optional(),
});

/** A risk that a person took, with the reason. It holds for the sentence as it was then. */
const accepted = z.strictObject({
  rule: z.string().regex(/^[a-z]+\/[a-z0-9-]{1,60}$/, 'must be the name of a rule, as in boot/no-active-mark'),
  slot: slotId.optional(),
  sentence: line(600),
  reason: line(REASON_LIMIT),
});

/** The document as a whole. */
export const layoutShape = z.strictObject({
  /** Where the schema of the document lies, for editors. */
  $schema: line(500).optional(),
  format: z.literal('loess-layout'),
  version: z.literal(LAYOUT_VERSION),
  name: line(LAYOUT_NAME_LIMIT),
  story: z.string().max(400).regex(ONE_LINE, LINE_ERROR).optional(),
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
  /** What the medium looked like that the layout was made from, and is for. */
  found: foundShape.optional(),
  slots: z.array(z.discriminatedUnion('kind', [partition, raw, free])).max(SLOT_LIMIT),
  /** Ways to start, the first of them without being asked. */
  entries: z.array(entry).max(ENTRY_LIMIT).optional(),
  accepted: z.array(accepted).max(ACCEPTED_LIMIT).optional(),
});

export type Layout = z.infer<typeof layoutShape>;
export type Slot = Layout['slots'][number];
export type PartitionSlot = Extract<Slot, { kind: 'partition' }>;
export type RawSlot = Extract<Slot, { kind: 'raw' }>;
export type FreeSlot = Extract<Slot, { kind: 'free' }>;
export type MediumSpec = Layout['medium'];
export type Table = Layout['table'];
export type Machine = NonNullable<Layout['machine']>;
export type Board = NonNullable<Machine['board']>;
/** What a medium looked like, and a partition of it. */
export type FoundMedium = NonNullable<Layout['found']>;
export type FoundEntry = FoundMedium['partitions'][number];
/** A way to start. */
export type BootEntry = NonNullable<Layout['entries']>[number];
export type Accepted = NonNullable<Layout['accepted']>[number];
