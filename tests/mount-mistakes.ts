/** Mistakes that people make in mount tables, each planted into the table of the harbour office. */

/** The table of the harbour office and its stick, in the words of people. */
export const OFFICE_TABLE = `# /etc/fstab of the harbour office
UUID=0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5  /  ext4  errors=remount-ro  0 1
UUID=1d7c2f0b-63de-4c1f-8b46-8b31c3f4d5e6  /home  ext4  defaults,noatime  0 2
UUID=7A1D-E5B0  /boot/efi  vfat  umask=0077  0 2
PARTUUID=b4a2d3e5-6c7f-4081-92a3-b4c5d6e7f809  /srv/archive  xfs  noatime,inode64  0 0
UUID=51A0-0C5E  /srv/share  vfat  uid=1000,gid=1000,nofail,x-systemd.device-timeout=10s  0 2
UUID=2e8d3a1c-74ef-4d20-9c57-9c42d4a5e6f7  none  swap  sw  0 0
tmpfs  /tmp  tmpfs  size=512M,mode=1777  0 0
`;

export interface Mistake {
  readonly name: string;
  /** What stands in the table, and what a person wrote for it. */
  readonly right: string;
  readonly wrong: string;
  readonly rule: string;
  /** The characters that the finding is about; all that was written wrong where nothing is said. */
  readonly at?: string;
  /** The first remedy gives the right table back, or it gives this text in the place of what was wrong. */
  readonly mends?: true | string;
}

const SYSTEM = 'UUID=0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5';
const HOME = 'UUID=1d7c2f0b-63de-4c1f-8b46-8b31c3f4d5e6';
const SWAP = 'UUID=2e8d3a1c-74ef-4d20-9c57-9c42d4a5e6f7';
const ARCHIVE = 'PARTUUID=b4a2d3e5-6c7f-4081-92a3-b4c5d6e7f809';

export const MISTAKES: readonly Mistake[] = [
  // Options.
  {
    name: 'a letter is missing',
    right: 'noatime,inode64',
    wrong: 'noatme,inode64',
    rule: 'table/unknown-option',
    at: 'noatme',
    mends: true,
  },
  { name: 'a letter too many', right: 'umask=0077', wrong: 'ummask=0077', rule: 'table/unknown-option', mends: true },
  {
    name: 'letters exchanged',
    right: 'defaults,noatime',
    wrong: 'defualts,noatime',
    rule: 'table/unknown-option',
    at: 'defualts',
    mends: true,
  },
  {
    name: 'upper case',
    right: 'defaults,noatime',
    wrong: 'defaults,NOATIME',
    rule: 'table/unknown-option',
    at: 'NOATIME',
    mends: true,
  },
  {
    name: 'an underscore left out',
    right: 'sw  0 0',
    wrong: 'sw,netdev  0 0',
    rule: 'table/unknown-option',
    at: 'netdev',
  },
  { name: 'two words made one', right: 'defaults,noatime', wrong: 'defaultsnoatime', rule: 'table/unknown-option' },
  {
    name: 'an option of FAT on ext',
    right: 'defaults,noatime',
    wrong: 'defaults,umask=022',
    rule: 'table/option-of-another',
    at: 'umask=022',
  },
  {
    name: 'an option of ext on FAT',
    right: 'umask=0077',
    wrong: 'umask=0077,data=ordered',
    rule: 'table/option-of-another',
    at: 'data=ordered',
  },
  {
    name: 'an option of btrfs on XFS',
    right: 'noatime,inode64',
    wrong: 'noatime,compress=zstd',
    rule: 'table/option-of-another',
    at: 'compress=zstd',
  },
  {
    name: 'an owner on ext',
    right: 'defaults,noatime',
    wrong: 'uid=1000,noatime',
    rule: 'table/option-of-another',
    at: 'uid=1000',
  },
  { name: 'a value is missing', right: 'umask=0077', wrong: 'umask', rule: 'table/option-value' },
  { name: 'a value that is no octal number', right: 'umask=0077', wrong: 'umask=0079', rule: 'table/option-value' },
  {
    name: 'a value that is none of the words',
    right: 'errors=remount-ro',
    wrong: 'errors=remountro',
    rule: 'table/option-value',
  },
  {
    name: 'a value where none is',
    right: 'noatime,inode64',
    wrong: 'noatime=1,inode64',
    rule: 'table/option-value',
    at: 'noatime=1',
    mends: true,
  },
  { name: 'nothing behind =', right: 'uid=1000,gid', wrong: 'uid=,gid', rule: 'table/option-value', at: 'uid=' },
  {
    name: 'a number that is none',
    right: 'sw  0 0',
    wrong: 'pri=high  0 0',
    rule: 'table/option-value',
    at: 'pri=high',
  },
  {
    name: 'a comma too many',
    right: 'defaults,noatime',
    wrong: 'defaults,,noatime',
    rule: 'table/empty-option',
    mends: true,
  },
  { name: 'a comma at the end', right: 'umask=0077', wrong: 'umask=0077,', rule: 'table/empty-option', mends: true },
  {
    name: 'both, to read and to write',
    right: 'noatime,inode64',
    wrong: 'ro,inode64,rw',
    rule: 'table/contradiction',
    at: 'rw',
  },
  {
    name: 'an option and its contrary',
    right: 'defaults,noatime',
    wrong: 'exec,noexec',
    rule: 'table/contradiction',
    at: 'noexec',
  },
  {
    name: 'two values of one option',
    right: 'uid=1000,gid=1000',
    wrong: 'uid=1000,uid=0',
    rule: 'table/contradiction',
    at: 'uid=0',
  },
  {
    name: 'a time limit that is mistyped',
    right: 'x-systemd.device-timeout=10s',
    wrong: 'x-systemd.device-timout=10s',
    rule: 'table/unknown-x-option',
    mends: true,
  },
  {
    name: 'a blank behind a comma',
    right: 'defaults,noatime',
    wrong: 'defaults, noatime',
    rule: 'table/unescaped-blank',
    at: ' ',
    mends: true,
  },
  // Types.
  {
    name: 'fat32',
    right: '/boot/efi  vfat',
    wrong: '/boot/efi  fat32',
    rule: 'table/unknown-type',
    at: 'fat32',
    mends: true,
  },
  {
    name: 'a type that is mistyped',
    right: '/home  ext4',
    wrong: '/home  etx4',
    rule: 'table/unknown-type',
    at: 'etx4',
    mends: true,
  },
  {
    name: 'a type in upper case',
    right: '/srv/archive  xfs',
    wrong: '/srv/archive  XFS',
    rule: 'table/unknown-type',
    at: 'XFS',
    mends: true,
  },
  {
    name: 'FAT as ext',
    right: '/boot/efi  vfat  umask=0077',
    wrong: '/boot/efi  ext4  noatime',
    rule: 'table/wrong-type',
    at: 'ext4',
  },
  {
    name: 'ext4 as ext3',
    right: '/home  ext4',
    wrong: '/home  ext3',
    rule: 'table/wrong-type',
    at: 'ext3',
    mends: true,
  },
  {
    name: 'ext4 as btrfs',
    right: '/home  ext4  defaults,noatime  0 2',
    wrong: '/home  btrfs  noatime  0 0',
    rule: 'table/wrong-type',
    at: 'btrfs',
  },
  {
    name: 'what will be XFS as ext4',
    right: 'xfs  noatime,inode64',
    wrong: 'ext4  noatime',
    rule: 'table/wrong-type',
    at: 'ext4',
  },
  {
    name: 'FAT with short names',
    right: '/srv/share  vfat',
    wrong: '/srv/share  msdos',
    rule: 'table/wrong-type',
    at: 'msdos',
    mends: true,
  },
  {
    name: 'swap as ext4',
    right: `${SWAP}  none  swap  sw`,
    wrong: `${SWAP}  /swap  ext4  defaults`,
    rule: 'table/wrong-type',
    at: 'ext4',
  },
  // Names.
  {
    name: 'a digit of an id is wrong',
    right: HOME,
    wrong: HOME.replace('63de', '63df'),
    rule: 'table/unknown-id',
    mends: true,
  },
  {
    name: 'a digit of an id is missing',
    right: SYSTEM,
    wrong: SYSTEM.slice(0, -1),
    rule: 'table/unknown-id',
    mends: true,
  },
  {
    name: 'an id that nobody has',
    right: HOME,
    wrong: 'UUID=deadbeef-dead-4eef-8ead-deadbeef0123',
    rule: 'table/unknown-id',
    mends: true,
  },
  { name: 'an id of no form', right: ARCHIVE, wrong: 'UUID=tide-archive', rule: 'table/no-id' },
  {
    name: 'the id of a file system as that of a partition',
    right: SYSTEM,
    wrong: `PART${SYSTEM}`,
    rule: 'table/wrong-kind-of-id',
    mends: true,
  },
  {
    name: 'the id of a partition as that of a file system',
    right: ARCHIVE,
    wrong: ARCHIVE.slice(4),
    rule: 'table/wrong-kind-of-id',
    mends: true,
  },
  {
    name: 'a label as a name of a partition',
    right: SYSTEM,
    wrong: 'PARTLABEL=quay-system',
    rule: 'table/wrong-kind-of-id',
    mends: 'LABEL=quay-system',
  },
  {
    name: 'the name of a partition as a label',
    right: HOME,
    wrong: 'LABEL=Home',
    rule: 'table/wrong-kind-of-id',
    mends: 'PARTLABEL=Home',
  },
  {
    name: 'an id of FAT in lower case',
    right: 'UUID=7A1D-E5B0',
    wrong: 'UUID=7a1d-e5b0',
    rule: 'table/id-case',
    mends: true,
  },
  { name: 'an id of ext in upper case', right: HOME, wrong: HOME.toUpperCase(), rule: 'table/id-case', mends: true },
  {
    name: 'two ids exchanged',
    right: `${HOME}  /home`,
    wrong: `${SYSTEM}  /home`,
    rule: 'table/wrong-slot',
    at: SYSTEM,
    mends: true,
  },
  { name: 'the name of a device', right: HOME, wrong: '/dev/sda3', rule: 'table/device-name', mends: true },
  {
    name: 'a tag in lower case',
    right: HOME,
    wrong: HOME.replace('UUID', 'uuid'),
    rule: 'table/tag',
    at: 'uuid=',
    mends: true,
  },
  {
    name: 'a colon for =',
    right: 'UUID=51A0-0C5E',
    wrong: 'UUID:51A0-0C5E',
    rule: 'table/tag',
    at: 'UUID:',
    mends: true,
  },
  // Places.
  { name: 'a relative path', right: '/home', wrong: 'home', rule: 'table/relative-path', mends: true },
  { name: 'a place for nothing', right: `/home  ext4`, wrong: 'none  ext4', rule: 'table/relative-path', at: 'none' },
  { name: 'a slash at the end', right: '/srv/archive', wrong: '/srv/archive/', rule: 'table/odd-path', mends: true },
  {
    name: 'a blank in a place',
    right: '/srv/archive',
    wrong: '/srv/tide archive',
    rule: 'table/unescaped-blank',
    at: '/srv/tide archive',
    mends: '/srv/tide\\040archive',
  },
  {
    name: 'a blank in a label',
    right: SYSTEM,
    wrong: 'LABEL=quay system',
    rule: 'table/unescaped-blank',
    mends: 'LABEL=quay\\040system',
  },
  {
    name: 'a wrong escape',
    right: '/srv/archive',
    wrong: '/srv/tide\\40archive',
    rule: 'table/bad-escape',
    at: '\\',
    mends: '/srv/tide\\13440archive',
  },
  { name: 'quotes around a place', right: '/srv/archive', wrong: '"/srv/archive"', rule: 'table/quotes', mends: true },
  { name: 'one place twice', right: '/srv/share', wrong: '/home', rule: 'table/mount-point-twice' },
  {
    name: 'swap space that is mounted',
    right: 'none  swap',
    wrong: '/swap  swap',
    rule: 'table/swap-mounted',
    at: '/swap',
    mends: true,
  },
  { name: 'no root', right: `${SYSTEM}  /  ext4  errors=remount-ro  0 1\n`, wrong: '', rule: 'table/no-root' },
  // Numbers and fields.
  {
    name: 'the root is not first',
    right: 'errors=remount-ro  0 1',
    wrong: 'errors=remount-ro  0 2',
    rule: 'table/pass',
    at: '2',
    mends: true,
  },
  {
    name: 'home with the pass of the root',
    right: 'defaults,noatime  0 2',
    wrong: 'defaults,noatime  0 1',
    rule: 'table/pass',
    at: '1',
    mends: true,
  },
  { name: 'swap that is checked', right: 'sw  0 0', wrong: 'sw  0 2', rule: 'table/pass', at: '2', mends: true },
  {
    name: 'XFS that is checked',
    right: 'noatime,inode64  0 0',
    wrong: 'noatime,inode64  0 2',
    rule: 'table/pass',
    at: '2',
    mends: true,
  },
  { name: 'a pass of 3', right: 'umask=0077  0 2', wrong: 'umask=0077  0 3', rule: 'table/pass', at: '3', mends: true },
  {
    name: 'letters for a number',
    right: 'umask=0077  0 2',
    wrong: 'umask=0077  o 2',
    rule: 'table/number',
    at: 'o',
    mends: true,
  },
  {
    name: 'no options',
    right: 'defaults,noatime  0 2',
    wrong: '',
    rule: 'table/too-few-fields',
    at: `${HOME}  /home  ext4  `,
  },
  {
    name: 'nothing but an id',
    right: `${HOME}  /home  ext4  defaults,noatime  0 2`,
    wrong: HOME,
    rule: 'table/too-few-fields',
  },
  {
    name: 'a field too many',
    right: 'umask=0077  0 2',
    wrong: 'umask=0077  0 2 0',
    rule: 'table/unescaped-blank',
    at: '0',
  },
  {
    name: 'a comment behind a line',
    right: 'umask=0077  0 2',
    wrong: 'umask=0077  0 2  # the ESP',
    rule: 'table/unescaped-blank',
    at: '#',
  },
  // The medium may be absent.
  {
    name: 'a stick without nofail',
    right: 'gid=1000,nofail,',
    wrong: 'gid=1000,',
    rule: 'table/no-nofail',
    at: 'uid=1000,gid=1000,x-systemd.device-timeout=10s',
  },
  // Control characters.
  { name: 'a NUL', right: '/srv/archive', wrong: '/srv/arch\u0000ive', rule: 'table/control-characters', at: '\u0000' },
];
