/** What a system can make of a partition that is left to it: the word of the document, and the name of the trade. */

export const EXPECTED = [
  'ext2',
  'ext3',
  'ext4',
  'xfs',
  'btrfs',
  'f2fs',
  'zfs',
  'ntfs',
  'ufs',
  'swap',
  'lvm',
  'luks',
  'raid',
] as const;
export type Expected = (typeof EXPECTED)[number];

export const EXPECTED_NAMES: Readonly<Record<Expected, string>> = {
  ext2: 'ext2',
  ext3: 'ext3',
  ext4: 'ext4',
  xfs: 'XFS',
  btrfs: 'btrfs',
  f2fs: 'F2FS',
  zfs: 'ZFS',
  ntfs: 'NTFS',
  ufs: 'UFS',
  swap: 'swap',
  lvm: 'LVM',
  luks: 'LUKS',
  raid: 'RAID',
};
