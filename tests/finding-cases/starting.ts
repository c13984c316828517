/** Findings about files in which ids stand, and about files that Loess writes. */
import type { Tree, TreeEntry } from '@/core/filesystems/tree';
import { contentsOf } from '@/core/filesystems/supplied';
import type { BootEntry, Layout, PartitionSlot } from '@/core/layout/document';
import { fatPart, GPT_TABLE, part } from '../samples';
import { type Case, image } from './case';

const trees = new Map<string, Tree>();
const texts = new Map<string, string>();

const sum = (n: number) => n.toString(16).padStart(64, '0');
let made = 0x1000;

/** The name of a tree of files with these texts, and of other entries. */
function tree(files: Readonly<Record<string, string>>, others: readonly TreeEntry[] = []): string {
  const entries = Object.entries(files).map(([path, text]): TreeEntry => {
    const sha256 = sum((made += 1));
    texts.set(sha256, text);
    return { kind: 'file', path, size: text.length, sha256 };
  });
  const sha256 = sum((made += 1));
  trees.set(sha256, [...entries, ...others]);
  return sha256;
}

const DISK_ID = GPT_TABLE.diskId;
const SYSTEM_ID = '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5';
const PART_IDS = { b: '7a1d0001-616d-4c0a-8d05-746964657361', s: '7a1d0002-616d-4c0a-8d05-746964657362' };
const SWAP_ID = '7a1d0003-616d-4c0a-8d05-746964657363';

const boot = (files?: string, more: Partial<PartitionSlot> = {}) =>
  fatPart(
    'Boot',
    '200 MiB',
    { variant: 32, ...(files !== undefined && { files }) },
    { id: 'b', role: 'boot', partitionId: PART_IDS.b, mount: '/boot', ...more },
  );
const system = (files?: string, more: Partial<PartitionSlot> = {}) =>
  part('s', '200 MiB', {
    name: 'System',
    role: 'system',
    partitionId: PART_IDS.s,
    mount: '/',
    content: { kind: 'ext', version: 'ext4', uuid: SYSTEM_ID, label: 'root', ...(files !== undefined && { files }) },
    ...more,
  });
const swap = part('w', '64 MiB', {
  name: 'Swap',
  role: 'swap',
  partitionId: SWAP_ID,
  content: { kind: 'swap', uuid: '1f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5' },
});

const layout = (slots: PartitionSlot[], more: Partial<Layout> = {}): Layout =>
  image('2 GiB', slots, { table: { ...GPT_TABLE, diskId: DISK_ID }, boots: ['uefi'], ...more });

const ENTRY: BootEntry = { id: 'A', title: 'Harbour', root: 's', kernel: '/vmlinuz', initrd: ['/initrd.img'] };
const KERNEL = { vmlinuz: 'kernel', 'initrd.img': 'disk' };
const entryText = (root: string, rest = 'initrd /initrd.img\n') =>
  `title Harbour\nlinux /vmlinuz\n${rest}options ${root} ro\n`;
/** A boot partition with one entry that says so, the kernel beside it. */
const saying = (text: string, path = 'LOADER/ENTRIES/A.CONF') => boot(tree({ ...KERNEL, [path]: text }));
const LEAVE = 'Leave “A.CONF” out';
const INSTEAD = 'Write the boot entries of the layout there';
const withEntry = { entries: [ENTRY] };
const RIGHT = saying(entryText(`root=PARTUUID=${PART_IDS.s.toUpperCase()}`));

const FSTAB = `UUID=${SYSTEM_ID} / ext4 defaults 0 1\nPARTUUID=${PART_IDS.b} /boot vfat umask=0077 0 2\n`;
const TABLE = 'Write the mount table of the layout there';
const LEAVE_TABLE = 'Leave “fstab” out';

const PLAIN: readonly Case[] = [
  {
    rule: 'entries/wrong-slot',
    severity: 'risk',
    bad: layout([saying(entryText(`root=PARTUUID=${SWAP_ID}`)), system(), swap], withEntry),
    good: layout([RIGHT, system(), swap], withEntry),
    says: `“LOADER/ENTRIES/A.CONF” of Boot, line 4, column 9: root= names PARTUUID ${SWAP_ID}, which is Swap (swap space).`,
    remedies: [INSTEAD],
    fileRemedies: [LEAVE],
  },
  {
    rule: 'entries/unknown-id',
    severity: 'risk',
    bad: layout([saying(entryText(`root=UUID=${PART_IDS.s}`)), system()]),
    good: layout([RIGHT, system()]),
    says: `root= names UUID ${PART_IDS.s}. System has it as its PARTUUID.`,
    remedies: [],
    fileRemedies: [LEAVE],
  },
  {
    rule: 'entries/id-twice',
    severity: 'risk',
    bad: layout([
      saying(entryText('root=PARTLABEL=System')),
      system(),
      system(undefined, { id: 't', partitionId: SWAP_ID, mount: '/old' }),
    ]),
    good: layout([saying(entryText('root=PARTLABEL=System')), system()]),
    says: 'root= names PARTLABEL System, which System and System have',
    remedies: [],
    fileRemedies: [LEAVE],
  },
  {
    rule: 'entries/no-ram-disk',
    severity: 'risk',
    bad: layout([saying(entryText(`root=UUID=${SYSTEM_ID}`, '')), system()], withEntry),
    good: layout([saying(entryText(`root=UUID=${SYSTEM_ID}`)), system()], withEntry),
    says: 'root=UUID= is found by an initial RAM disk alone, and the entry names none',
    remedies: [INSTEAD],
    fileRemedies: [LEAVE],
  },
  {
    rule: 'entries/file-missing',
    severity: 'risk',
    bad: layout([
      boot(tree({ ...KERNEL, 'loader/entries/A.CONF': `title Harbour\nlinux /boot/vmlinuz\ninitrd /other.img\n` })),
      system(),
    ]),
    good: layout([RIGHT, system()]),
    says: 'line 2, column 7: the kernel /boot/vmlinuz is not among the files of Boot. On this volume it is /vmlinuz. 1 other place of the file likewise.',
    remedies: [],
    fileRemedies: [LEAVE],
  },
  {
    rule: 'entries/no-kernel',
    severity: 'risk',
    bad: layout([boot(tree({ 'extlinux/extlinux.conf': 'DEFAULT a\nLABEL a\n  APPEND quiet\n' })), system()]),
    good: layout([
      boot(tree({ Image: 'kernel', 'extlinux/extlinux.conf': 'DEFAULT a\nLABEL a\n  kernel ../Image\n' })),
      system(),
    ]),
    says: 'line 2, column 1: the entry a names no kernel',
    remedies: [],
    fileRemedies: ['Leave “extlinux.conf” out'],
  },
  {
    rule: 'entries/unknown-word',
    severity: 'note',
    bad: layout([saying(`${entryText(`root=PARTUUID=${PART_IDS.s}`)}option quiet\n`), system()]),
    good: layout([RIGHT, system()]),
    says: 'line 5, column 1: “option” is no word of such a file. Perhaps “options” is meant.',
    remedies: [],
    fileRemedies: [LEAVE],
  },
  {
    rule: 'entries/not-read',
    severity: 'note',
    bad: layout([saying('\0\0\0'), system()]),
    good: layout([RIGHT, system()]),
    says: '“LOADER/ENTRIES/A.CONF” of Boot has zero bytes in it and is no text',
    remedies: [],
  },
  {
    rule: 'mounts/nothing',
    severity: 'note',
    bad: layout([boot(), system(tree({ 'etc/fstab': '# To be filled in\n' }))]),
    good: layout([boot(), system(tree({ 'etc/fstab': FSTAB }))]),
    says: '“etc/fstab” of System mounts nothing',
    remedies: [TABLE],
    fileRemedies: [LEAVE_TABLE],
  },
  {
    rule: 'mounts/table',
    severity: 'risk',
    bad: layout([boot(), system(tree({ 'etc/fstab': FSTAB.replace('defaults', 'noatme') }))]),
    good: layout([boot(), system(tree({ 'etc/fstab': FSTAB }))]),
    says: '“etc/fstab” of System, line 1, column 50: ext4 knows no option “noatme”',
    remedies: [TABLE],
    fileRemedies: [LEAVE_TABLE],
  },
  {
    rule: 'written/nothing',
    severity: 'risk',
    bad: layout([boot(undefined, { writes: ['mount table'] }), system()]),
    good: layout([boot(), system(undefined, { writes: ['mount table'] })]),
    says: 'The mount table is to be written into Boot, and is not: the table of a system lies in its /etc, and Boot is mounted at /boot',
    remedies: ['Do not write the mount table'],
  },
  {
    rule: 'written/blocked',
    severity: 'stop',
    bad: layout([
      boot(),
      system(tree({}, [{ kind: 'link', path: 'etc', target: 'usr/etc' }]), { writes: ['mount table'] }),
    ]),
    good: layout([boot(), system(tree({}, [{ kind: 'folder', path: 'etc' }]), { writes: ['mount table'] })]),
    says: '“etc/fstab” cannot be written into System: “etc” of its files is a link',
    remedies: ['Do not write the mount table'],
    fileRemedies: ['Leave “etc” out'],
  },
  {
    rule: 'written/over',
    severity: 'note',
    bad: layout([boot(), system(tree({ 'etc/fstab': 'anything' }), { writes: ['mount table'] })]),
    good: layout([boot(), system(tree({ 'etc/hosts': 'anything' }), { writes: ['mount table'] })]),
    says: '“etc/fstab” of the files of System gives way to what is written from the layout',
    remedies: [],
  },
];

const CONTENTS = contentsOf(trees, new Map(), undefined, texts);

export const STARTING_CASES: readonly Case[] = PLAIN.map((one) => ({ ...one, contents: CONTENTS }));
