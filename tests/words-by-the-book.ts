/** Words for the numbers of ext, as its documentation has them. */

/** What an inode is, by the first bits of its mode. */
export const TYPES: Readonly<Record<number, string>> = {
  0x1000: 'pipe',
  0x2000: 'character',
  0x4000: 'folder',
  0x6000: 'block',
  0x8000: 'file',
  0xa000: 'link',
  0xc000: 'socket',
};

/** First parts of the names of attributes, by their index. */
export const PREFIXES: Readonly<Record<number, string>> = {
  1: 'user.',
  2: 'system.posix_acl_access',
  3: 'system.posix_acl_default',
  4: 'trusted.',
  6: 'security.',
};
