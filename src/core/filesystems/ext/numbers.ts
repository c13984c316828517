/** Numbers of ext file systems by which things are told, and lengths (the kernel's documentation of ext4's data structures). */

/** Where the superblock begins, in bytes from the start of the volume. */
export const SUPERBLOCK_AT = 1024;

export const EXT_MAGIC = 0xef53;

/** Flags of a group: its inode bitmap and table are not written; its block bitmap is not; its inode table is all zeros beyond those used. */
export const GROUP_FLAG = { inodesUnset: 1, blocksUnset: 2, tableZeroed: 4 } as const;

/** Kinds of file in the upper four bits of a mode, and in directory entries. */
export const FILE_TYPE = {
  pipe: { mode: 0x1000, entry: 5 },
  character: { mode: 0x2000, entry: 3 },
  folder: { mode: 0x4000, entry: 2 },
  block: { mode: 0x6000, entry: 4 },
  file: { mode: 0x8000, entry: 1 },
  link: { mode: 0xa000, entry: 7 },
  socket: { mode: 0xc000, entry: 6 },
} as const;

/**
 * Flags of an inode: its names or bytes are encrypted; a hashed directory; its length counts blocks, not sectors; it is mapped by
 * extents; sealed by its sums; it holds the value of an attribute; its data lie in it; names are the same whatever their case.
 */
export const INODE_FLAG = {
  encrypted: 0x800,
  hashed: 0x1000,
  huge: 0x40000,
  extents: 0x80000,
  sealed: 0x100000,
  value: 0x200000,
  inline: 0x10000000,
  folded: 0x40000000,
} as const;

/** Inodes with a meaning of their own, and the first that has none. */
export const INODE = { bad: 1, root: 2, loader: 5, resize: 7, journal: 8, first: 11 } as const;

/** Bytes of an inode of old: what lies behind them is there in larger ones only. */
export const SHORT_INODE_BYTES = 128;

/** Bytes of the fields behind them that are used. */
export const EXTRA_BYTES = 32;

/** Mark of every block of a journal, and the kind of its first: the second form of its superblock. Numbers of a journal have their highest byte first. */
export const JOURNAL_MAGIC = 0xc03b3998;

export const JOURNAL_SUPERBLOCK = 4;

/** Mark of a node of an extent tree. */
export const EXTENT_MAGIC = 0xf30a;

/** Bytes of its head, and of each entry. */
export const EXTENT_BYTES = 12;

/** Most blocks of an extent. */
export const EXTENT_LIMIT = 32_768;

/** Mark of extended attributes, in an inode and in a block of their own. */
export const ATTRIBUTES_MAGIC = 0xea020000;

/** Kind of the entry at the end of a directory block that holds its checksum, and its bytes. */
export const TAIL_TYPE = 0xde;

export const TAIL_BYTES = 12;

/** What the names of attributes begin with, by the number that stands for it; those of access lists are whole names. */
export const ATTRIBUTE_PREFIXES: Readonly<Record<number, string>> = {
  1: 'user.',
  2: 'system.posix_acl_access',
  3: 'system.posix_acl_default',
  4: 'trusted.',
  6: 'security.',
  7: 'system.',
};
export const ACCESS_LISTS: readonly number[] = [2, 3];
