/**
 * What the published schema says of each field, for people in their editors. The shape itself says
 * what is valid; a test sees to it that nothing is without words.
 */

/** What is said of a field, or of a kind of value. */
export interface Words {
  readonly title?: string;
  readonly description: string;
  readonly examples?: readonly unknown[];
  /** What holds where nothing is said. */
  readonly default?: unknown;
}

const words = (description: string, ...examples: unknown[]): Words => ({
  description,
  ...(examples.length > 0 && { examples }),
});
const titled = (title: string, description: string, ...examples: unknown[]): Words => ({
  title,
  ...words(description, ...examples),
});

/** Kinds of value that many fields share, by their name among the definitions. */
export const DEFINITIONS = {
  size: titled(
    'Size',
    'How big something wants to be: exact, a share of what is left, per cent, a position, or as something else.',
    '512 MiB',
    '40 GB',
    '2048 sectors',
    'rest',
    'rest × 2',
    'rest, at least 8 GiB, at most 64 GiB',
    '25 %',
    'ending at 20 GiB',
    'memory × 1.5',
    'same as System A',
    'its image',
  ),
  exactSize: titled(
    'Exact size',
    'So many bytes, sectors or blocks.',
    '512 MiB',
    '40 GB',
    '2048 sectors',
    '1500 × 1 MiB',
  ),
  guid: titled('GUID', 'In either case, in braces or without.', '6d617272-616d-4c0a-8d05-7469646573aa'),
  sha256: titled('SHA-256', 'The sum of what is in a file: 64 hexadecimal digits.'),
  volumeId: titled('Volume id', 'Eight hexadecimal digits with a dash between.', '3A1F-77C0'),
  slotId: titled('Id of a slot', 'Lower-case letters, digits and dashes; each once.', 'boot', 'system-a'),
  sectorSize: titled('Sector size', 'Bytes of a sector.', 512),
} as const satisfies Readonly<Record<string, Words>>;

const STORED = {
  sha256: words('SHA-256 of the file.'),
  name: words('What people call the file.', 'u-boot.bin'),
  size: words('Bytes of the file.'),
  path: words(
    'Where the file lies, from the folder of the document on. With it the other fields can be filled in.',
    'loader/u-boot.bin',
  ),
};
const PART = {
  ...STORED,
  from: { ...words('First byte of the file that is taken.'), default: 0 },
  take: words('So many bytes of it; all that follow where it is missing.', 440),
};
const below = (path: string, fields: Readonly<Record<string, Words>>): Record<string, Words> =>
  Object.fromEntries(Object.entries(fields).map(([name, one]) => [`${path}.${name}`, one]));

const PLACING = {
  at: words(
    'Where it begins, exactly; by rule behind what stands before it where it is missing.',
    '8 KiB',
    '2048 sectors',
  ),
  grain: words('A grain of its own: it begins on a multiple of that.', '4 MiB'),
  endsOnGrain: words('It ends on its grain, too.'),
};
const LABEL = words('Its label.', 'GAUGEBOOT');
const FILES = {
  files: words('SHA-256 of the list of its files.'),
  filesFrom: words(
    'Where its files come from, from the folder of the document on: a folder, an archive, or one file.',
    'files/boot',
    'files/boot.tar',
  ),
  times: words('Files keep their own times; they have the date of the layout where it is missing.'),
};
const VOLUME = {
  label: LABEL,
  volumeId: words('Its volume id, by which systems find it.'),
  cluster: words('Bytes of a cluster; by size where it is missing.', '32 KiB'),
  ...FILES,
};

/** Every field by its path; a kind stands between the field that has it and its own fields. */
export const FIELDS: Readonly<Record<string, Words>> = {
  $schema: words('Where this schema lies, for editors.', './layout-2.schema.json'),
  format: words('Says that this is a layout of Loess.'),
  version: words('Version of the document.'),
  name: titled('Name', 'What the layout is called.', 'Gauge logger card'),
  story: words('What it is for, in a line.'),
  date: words('The one time that goes into the bytes: that of files and file systems.', '2026-03-01T12:00:00'),
  medium: titled('Medium', 'What the layout goes onto.'),
  'medium.kind': words('What it is.', 'card'),
  'medium.capacity': words('Its size: to the byte, or as it is sold.', { exact: '1 GiB' }, { nominal: '8 GB' }),
  'medium.capacity.nominal': words('Any medium that is sold with this size.', '8 GB'),
  'medium.capacity.floor': words('So many per cent of it are taken for sure; by kind where it is missing.', 92),
  'medium.capacity.exact': words('Its size to the byte.', '64 MiB', '15523840 sectors'),
  'medium.logicalSector': words('Bytes that it is addressed by.'),
  'medium.physicalSector': words('Bytes that it writes at once; not smaller than the logical sector.'),
  'medium.writeUnit': words('What its flash erases at once.', '4 MiB'),
  'medium.optimalIo': words('What it says that it likes to be written in.', '64 KiB'),
  'medium.goesOnto': words('Of an image file: the sectors of the device that it will be copied to.'),
  boots: titled('Starts', 'What is to start from it.', ['uefi'], ['board']),
  machine: titled('Machine', 'What is known of the machine, as far as the layout depends on it.'),
  'machine.use': words('What it is used for.'),
  'machine.memory': words('Its memory.', '8 GiB'),
  'machine.hibernates': words('It sleeps with its memory on the medium.'),
  'machine.esp': words('Its EFI system partition is on another disk, or among what stays on this one.'),
  'machine.root': words('Its system is on another disk.'),
  'machine.loader': words('How a BIOS loader goes on from sector 0.'),
  'machine.loaderFrom': words('Who brings the loader.'),
  'machine.biosLimit': words('Where its old BIOS stops.'),
  'machine.board': words('Which board starts it: a family that is known, or a profile of one’s own.', {
    family: 'imx6',
  }),
  'machine.board.family': words('A family of boards that is known.'),
  'machine.board.name': words('What the board is called.'),
  'machine.board.source': words('Where this is known from.'),
  'machine.board.ranges': words('What its ROM loads from.'),
  'machine.board.ranges.name': words('What lies there.', 'first-stage loader'),
  'machine.board.ranges.at': words('Where it begins.', '8 KiB', '0'),
  'machine.board.ranges.length': words('How long it is.', '32 KiB'),
  'machine.board.ranges.instead': words('The ROM looks here too, and needs only one of these.'),
  'machine.board.tables': words('Tables that it can live with.', ['mbr', 'gpt']),
  'machine.board.first': words('What its ROM asks of the first partition.'),
  'machine.mountTool': words('What reads its mount table, where that is not the usual program.', 'busybox'),
  'machine.services': words('What starts its services, and mounts.', 'systemd'),
  'machine.pageSize': { ...words('Bytes of a memory page of its kernel.'), default: 4096 },
  table: titled('Table', 'The partition table, or none.', { kind: 'mbr', signature: '6d617272' }),
  'table.kind': words('Which table.'),
  'table.mbr.signature': words('The disk signature: eight hexadecimal digits.', '6d617272'),
  'table.mbr.packed': words('Records of logical partitions stand right before their partition, not a grain before it.'),
  'table.mbr.containerType': words('Type of the container of logical partitions; by rule where it is missing.'),
  'table.mbr.code': words(
    'Boot code for sector 0: 440 bytes at most, or a whole sector of which the first 440 are taken.',
  ),
  ...below('table.mbr.code', PART),
  'table.gpt.diskId': words('The id of the disk.'),
  'table.gpt.entries': { ...words('Entries of the table.'), default: 128 },
  'table.gpt.array': words('First byte of the array of entries; behind the header where it is missing.', '1 MiB'),
  'table.gpt.hybrid': words('Ids of slots that the protective sector shows too.', ['boot']),
  'table.gpt.markProtective': words('The protective entry is marked active, for firmware that asks for that.'),
  'table.gpt.code': words('Boot code for sector 0, as with an MBR.'),
  ...below('table.gpt.code', PART),
  grain: words(
    'What partitions begin on multiples of: a size, or cylinders; by rule where it is missing.',
    '1 MiB',
    'cylinders',
  ),
  slots: titled('Slots', 'What lies on the medium, in this order.'),
  'slots.id': words('The name by which the document itself knows the slot; each once.'),
  'slots.kind': words('A partition, a raw range at a fixed place, or space that is left free on purpose.'),
  'slots.name': words('What people call it; on a GPT it is the name in the table.', 'System A'),
  'slots.partition.role': words('What it is for; its type follows.'),
  'slots.partition.size': words('How big it wants to be.'),
  ...below('slots.partition', PLACING),
  'slots.partition.logical': words('On an MBR: inside of the container.'),
  'slots.partition.type': words(
    'Its type: two hexadecimal digits on an MBR, a GUID on a GPT; by rule where it is missing.',
    '0C',
  ),
  'slots.partition.partitionId': words(
    'Its id on a GPT; it follows from that of the disk and of the slot where it is missing.',
  ),
  'slots.partition.attributes': words('Its attributes on a GPT.'),
  'slots.partition.active': words('On an MBR: it is marked active.'),
  'slots.partition.content': words(
    'What is inside; it is left to its system where nothing is said, and a swap partition is made swap.',
    {
      kind: 'fat',
      label: 'BOOT',
      volumeId: '3A1F-77C0',
    },
  ),
  'slots.partition.content.kind': words('What is inside.'),
  'slots.partition.mount': words('Where a system mounts it.', '/', '/boot'),
  'slots.partition.writes': words(
    'What Loess writes into its files each time it is built: the mount table, boot entries.',
  ),
  'slots.partition.repack': words(
    'The ext inside a kept partition is laid anew, as long as the slot is: with inodes numbered anew, or with the numbers kept.',
    'renumbered',
  ),
  'slots.partition.mounting': words('What a mount table says of it, where that is not left to the rules.'),
  'slots.partition.mounting.by': words('What it is named by; by rule where it is missing.', 'PARTUUID'),
  'slots.partition.mounting.options': words('All options, as they stand in the table.', 'noatime,nofail'),
  'slots.partition.mounting.pass': words('When it is checked at start: 1 for the root, 2 for others, 0 for never.', 2),
  'slots.partition.mounting.mayBeAbsent': words('The system is to start without it too.'),
  'slots.partition.mounting.leftOut': words('It stands in no mount table.'),
  ...below('slots.partition.content.fat', VOLUME),
  'slots.partition.content.fat.variant': words('FAT12, FAT16 or FAT32; by size where it is missing.', 32),
  'slots.partition.content.fat.rootEntries': words('Entries of the root directory of FAT12 and FAT16.', 512),
  'slots.partition.content.fat.padding': words('With what the data area is brought onto the unit of the medium.'),
  'slots.partition.content.fat.code': words('Boot code for its boot sector.'),
  ...below('slots.partition.content.fat.code', STORED),
  ...below('slots.partition.content.exfat', VOLUME),
  'slots.partition.content.ext.version': words('ext4, ext3 or ext2.'),
  'slots.partition.content.ext.profile': words(
    'What reads it: current systems, loaders of ten years ago too, or everything, for a few MiB; the most that the version can be where it is missing.',
  ),
  'slots.partition.content.ext.label': words('Its label: 16 bytes of UTF-8 are stored.', 'root'),
  'slots.partition.content.ext.uuid': words('Its id, by which systems find it.'),
  'slots.partition.content.ext.block': words('Bytes of a block; by size where it is missing.', '4 KiB'),
  'slots.partition.content.ext.perInode': words(
    'Bytes of the volume for which there is one inode; by size and files where it is missing.',
    '16 KiB',
  ),
  'slots.partition.content.ext.inodeSize': { ...words('Bytes of an inode; times end in 2038 with 128.'), default: 256 },
  'slots.partition.content.ext.journal': words('Its journal, or none; by size where it is missing.', '64 MiB', 'none'),
  'slots.partition.content.ext.reserved': words(
    'Per cent of it that only the administrator may fill; 5 on a system and 0 elsewhere where it is missing.',
    5,
  ),
  'slots.partition.content.ext.checkDays': { ...words('Days after which a check is due; 0 for never.'), default: 0 },
  'slots.partition.content.ext.growTo': words(
    'Size that it can grow to while it is mounted, or none; 1,024 times its own where it is missing, 16 TiB at most.',
    '64 GiB',
    'none',
  ),
  'slots.partition.content.ext.rootUser': { ...words('Owner of its root directory, in a number.'), default: 0 },
  'slots.partition.content.ext.rootGroup': { ...words('Group of its root directory, in a number.'), default: 0 },
  'slots.partition.content.ext.tables': words(
    'Inode tables behind those in use: the kernel writes them after the first mount; they are zeros where it is missing.',
  ),
  ...below('slots.partition.content.ext', FILES),
  'slots.partition.content.swap.label': LABEL,
  'slots.partition.content.swap.uuid': words('Its id.'),
  'slots.partition.content.swap.pageSize': words('Bytes of a memory page; that of the machine where it is missing.'),
  ...below('slots.partition.content.image', STORED),
  'slots.partition.content.image.hidden': words('Its header is made to say where it lies.'),
  ...below('slots.partition.content.file', STORED),
  'slots.partition.content.left.expects': words('What its system will make there.'),
  'slots.raw.at': words('Where it begins, exactly.', '8 KiB', '0'),
  'slots.raw.length': words('How long it is, exactly.', '1 MiB'),
  'slots.raw.keeps': words('What lies there stays.'),
  'slots.partition.keeps': words('Number of the partition that was found and is kept here.', 3),
  'slots.raw.blob': words('The file, or a part of one, that lies there.'),
  ...below('slots.raw.blob', PART),
  'slots.free.size': words('How much is left free.'),
  ...below('slots.free', PLACING),
  found: titled(
    'What was found',
    'What the medium looked like that the layout was made from. Written by Loess; see docs/kept.md.',
  ),
  'found.size': words('Bytes of the medium.'),
  'found.table': words('Kind of its table.'),
  'found.id': words('Disk id of its GPT, or signature of its MBR.'),
  'found.container': words('The container of its logical partitions.'),
  'found.container.number': words('Its number.'),
  'found.container.at': words('Its first sector.'),
  'found.container.sectors': words('Its sectors.'),
  'found.partitions': words('Its partitions, as the table has them.'),
  'found.partitions.number': words('Number in the table; 0 is a medium without one.', 3),
  'found.partitions.at': words('First sector.', 2048),
  'found.partitions.sectors': words('Sectors.'),
  'found.partitions.type': words('Type, as the table has it.'),
  'found.partitions.name': words('Name in a GPT; what cannot be shown is a question mark.'),
  'found.partitions.id': words('Id in a GPT.'),
  'found.partitions.attributes': words('Attributes in a GPT.'),
  'found.partitions.active': words('It is marked active.'),
  'found.partitions.recordAt': words('Sector of the record of a logical partition.'),
  'found.partitions.inside': words('What was recognised in it.'),
  'found.partitions.inside.kind': words('What it is.', 'NTFS'),
  'found.partitions.inside.label': words('Its label.', 'SURVEY'),
  'found.partitions.inside.id': words('Its id.'),
  'found.partitions.inside.bytes': words('Bytes of the file system, by its own header.'),
  'found.partitions.inside.used': words('Bytes in use.'),
  'found.partitions.inside.state': words('How its system left it, where that was not as it should be.'),
  'found.partitions.inside.hidden': words('Sectors before the volume, as its own header says.'),
  entries: titled(
    'Ways to start',
    'Boot entries; the first one is started where nobody chooses. See docs/hand-over.md.',
  ),
  'entries.id': words('Name of its file, without .conf.', 'normal'),
  'entries.title': words('What people choose it by.', 'Harbour display'),
  'entries.root': words('Id of the slot that becomes its root.'),
  'entries.rootBy': words('What the root is named by; by rule where it is missing.', 'PARTUUID'),
  'entries.kernel': words('The kernel, from the root of the file system that the entry lies on.', '/vmlinuz'),
  'entries.initrd': words('Its initial RAM disks, in order.'),
  'entries.devicetree': words('Its device tree.', '/board.dtb'),
  'entries.writable': words('The root is mounted for writing at once.'),
  'entries.options': words('More words of the command line.', 'quiet'),
  accepted: titled(
    'Accepted risks',
    'Risks that a person took, with the reason. Each holds for the sentence as it was then.',
  ),
  'accepted.rule': words('Which rule speaks.', 'boot/no-active-mark'),
  'accepted.slot': words('Which slot it speaks of.'),
  'accepted.sentence': words('What it said when the risk was taken.'),
  'accepted.reason': words('Why it was taken.'),
};
