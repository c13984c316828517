/** How a kernel mounts what is in a partition: its word for the file system, and the id and label that systems see. */

export interface Mounted {
  /** Type for the mount call, `swap` for swap space; undefined where it is not known, or nothing can be mounted. */
  readonly type: string | undefined;
  readonly id?: string | undefined;
  readonly label?: string | undefined;
  /** It is made here, was read of what was supplied, or its own system makes it later. */
  readonly known: 'made' | 'read' | 'later';
}

/** Words of the kernel for file systems, by what they are called where one is recognised. */
const TYPES: Readonly<Record<string, string>> = {
  FAT12: 'vfat',
  FAT16: 'vfat',
  FAT32: 'vfat',
  exFAT: 'exfat',
  NTFS: 'ntfs3',
  ext2: 'ext2',
  ext3: 'ext3',
  ext4: 'ext4',
  XFS: 'xfs',
  btrfs: 'btrfs',
  F2FS: 'f2fs',
  squashfs: 'squashfs',
  EROFS: 'erofs',
  'ISO 9660': 'iso9660',
  UFS: 'ufs',
  UFS2: 'ufs',
  'HFS+': 'hfsplus',
};

/** The word of the kernel for a file system by its name; undefined for a layer in which others lie. */
export function kernelType(name: string | undefined): string | undefined {
  return name?.startsWith('swap') ? 'swap' : name && TYPES[name];
}
