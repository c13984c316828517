/** Structures of a journal, with the highest byte first (the kernel's documentation of ext4, "Journal (jbd2)"). */
import { field, record } from '../../../bytes/record';

/** What every block of a journal begins with that is not data. */
export const BLOCK_HEAD = record(
  'journal block',
  12,
  {
    magic: field(0x0, 'u32', 'magic C03B3998h'),
    kind: field(0x4, 'u32', 'kind: 1 descriptor, 2 commit, 3 and 4 superblock, 5 revocations'),
    sequence: field(0x8, 'u32', 'transaction'),
  },
  'big-endian',
);

export const JOURNAL_SUPERBLOCK = record(
  'journal superblock',
  1024,
  {
    magic: field(0x0, 'u32', 'magic C03B3998h'),
    kind: field(0x4, 'u32', 'kind: 3 the first form, 4 the second'),
    block: field(0xc, 'u32', 'bytes of a block'),
    blocks: field(0x10, 'u32', 'blocks of the journal'),
    first: field(0x14, 'u32', 'first block of the log'),
    sequence: field(0x18, 'u32', 'first transaction that is to be found'),
    start: field(0x1c, 'u32', 'block at which it begins; 0 where there is nothing to replay'),
    error: field(0x20, 'u32', 'error that was met'),
    compatible: field(0x24, 'u32', 'features that can be ignored'),
    incompatible: field(0x28, 'u32', 'features that must be known'),
    readOnly: field(0x2c, 'u32', 'features that must be known to write'),
    uuid: field(0x30, { bytes: 16 }, 'UUID'),
    users: field(0x40, 'u32', 'file systems that use it'),
    dynamic: field(0x44, 'u32', 'block of a copy: not used'),
    mostBlocks: field(0x48, 'u32', 'most blocks of a transaction: not used'),
    mostData: field(0x4c, 'u32', 'most data of a transaction: not used'),
    checksumType: field(0x50, 'u8', 'checksums: 4 CRC-32C'),
    fastBlocks: field(0x54, 'u32', 'blocks for fast commits'),
    head: field(0x58, 'u32', 'block behind the last transaction'),
    checksum: field(0xfc, 'u32', 'checksum of all, this field as zeros'),
    userIds: field(0x100, { bytes: 768 }, 'UUIDs of the file systems'),
  },
  'big-endian',
);

/** The end of a transaction. */
export const COMMIT = record(
  'commit block',
  60,
  {
    magic: field(0x0, 'u32', 'magic C03B3998h'),
    kind: field(0x4, 'u32', 'kind: 2'),
    sequence: field(0x8, 'u32', 'transaction'),
    sumKind: field(0xc, 'u8', 'checksum of old: 1 CRC-32'),
    sumBytes: field(0xd, 'u8', 'its bytes'),
    sum: field(0x10, 'u32', 'checksum'),
    seconds: field(0x30, 'u64', 'committed, seconds since 1970'),
    nanoseconds: field(0x38, 'u32', 'and nanoseconds'),
  },
  'big-endian',
);

/** Bytes at which the list of a block of revocations says its length, and at which it begins. */
export const [REVOKED_LENGTH_AT, REVOKED_AT] = [12, 16];
