/** Findings about ext file systems and what only they hold: for each rule a layout that it speaks about, and one that it is silent about. */
import { type Contents, contentsOf } from '@/core/filesystems/supplied';
import type { ExtContent } from '@/core/filesystems/ext/shape';
import type { Tree, TreeEntry } from '@/core/filesystems/tree';
import type { Layout, PartitionSlot } from '@/core/layout/document';
import { fatPart, part } from '../samples';
import { CARD, type Case, DISK, image, on } from './case';

const trees = new Map<string, Tree | 'missing'>();
const CONTENTS: Contents = contentsOf(trees, new Map());

/** The name of a tree. */
function tree(...entries: TreeEntry[]): string {
  const sha256 = (trees.size + 1).toString(16).padStart(64, '0');
  trees.set(sha256, entries);
  return sha256;
}

const file = (path: string, size: number, more: object = {}): TreeEntry => ({
  kind: 'file',
  path,
  size,
  sha256: '1'.repeat(64),
  ...more,
});

const ext = (more: Partial<ExtContent> = {}): ExtContent => ({
  kind: 'ext',
  version: 'ext4',
  uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5',
  ...more,
});
const extPart = (
  size: string,
  more: Partial<ExtContent> = {},
  slot: Partial<PartitionSlot> = {},
  id = 'a',
): PartitionSlot => part(id, size, { ...slot, content: ext(more) });
const pair = (a: PartitionSlot, b: PartitionSlot): Layout =>
  image('2 GiB', [
    { ...a, id: 'a', name: 'System A' },
    {
      ...b,
      id: 'b',
      name: 'System B',
      content: { ...(b.content as ExtContent), uuid: b.id.padStart(8, '0') + '-52cd-4b0e-9a35-7a20b2f3c4d6' },
    },
  ]);
const manyNames = (): Tree => [
  file('one', 1),
  ...Array.from({ length: 65_001 }, (_, i): TreeEntry => ({ kind: 'second name', path: `name ${i}`, of: 'one' })),
];

function treeOf(entries: Tree): string {
  return tree(...entries);
}

const MADE: readonly Case[] = [
  {
    rule: 'ext/cannot-be-made',
    severity: 'stop',
    bad: image('1 GiB', [extPart('100 MiB', { block: '8 KiB' })]),
    good: image('1 GiB', [extPart('100 MiB', { block: '4 KiB' })]),
    says: 'a has blocks of 8 KiB; a page of its machine has 4 KiB',
    remedies: ['Let the size decide the block'],
  },
  {
    rule: 'ext/profile-of-another-version',
    severity: 'stop',
    bad: image('1 GiB', [extPart('100 MiB', { version: 'ext3', profile: 'current' })]),
    good: image('1 GiB', [extPart('100 MiB', { version: 'ext3', profile: 'old loaders' })]),
    says: 'a is ext3 with the profile “current”',
    remedies: ['Let the version decide'],
  },
  {
    rule: 'ext/label-is-cut',
    severity: 'risk',
    bad: image('1 GiB', [extPart('100 MiB', { label: 'Gezeitenübersicht' })]),
    good: image('1 GiB', [extPart('100 MiB', { label: 'Gezeitenübers' })]),
    says: 'is stored as “Gezeitenübersic”: it has 16 bytes at most, and “ht” is cut off',
    remedies: ['Call it “Gezeitenübersic”'],
  },
  {
    rule: 'ext/tables-need-checksums',
    severity: 'stop',
    bad: image('1 GiB', [extPart('100 MiB', { version: 'ext2', tables: 'left to the kernel' })]),
    good: image('1 GiB', [extPart('100 MiB', { tables: 'left to the kernel' })]),
    says: 'shall be left to the kernel, and ext2 has no mark for that',
    remedies: ['Write zeros there'],
  },
  {
    rule: 'ext/reserved-on-data',
    severity: 'note',
    bad: on(DISK, [extPart('200 GiB', { reserved: 5 })]),
    good: on(DISK, [extPart('200 GiB', { reserved: 5 }, { role: 'system' })]),
    says: 'Of a, 10 GiB ≈ 10.73 GB are reserved for the administrator',
    remedies: ['Reserve nothing'],
  },
  {
    rule: 'ext/few-inodes',
    severity: 'risk',
    bad: image('1 GiB', [extPart('900 MiB', { perInode: '1 MiB' })]),
    good: image('1 GiB', [extPart('900 MiB')]),
    says: 'one for',
    remedies: ['Let the size decide'],
  },
  {
    rule: 'ext/inodes-of-128-bytes',
    severity: 'risk',
    bad: image('1 GiB', [extPart('100 MiB', { inodeSize: 128 })]),
    good: image('1 GiB', [extPart('100 MiB', { inodeSize: 256 })]),
    says: 'their times end on 19 January 2038',
    remedies: ['Make them 256 bytes'],
  },
  {
    rule: 'ext/ext3-without-a-journal',
    severity: 'risk',
    bad: image('1 GiB', [extPart('100 MiB', { version: 'ext3', journal: 'none' })]),
    good: image('1 GiB', [extPart('100 MiB', { version: 'ext3' })]),
    says: 'a is ext3 and has no journal',
    remedies: ['Make it ext2', 'Give it a journal'],
  },
  {
    rule: 'ext/journal-on-small-flash',
    severity: 'note',
    bad: on(CARD, [extPart('32 MiB')]),
    good: on(CARD, [extPart('32 MiB', { journal: 'none' })]),
    says: 'a has 32 MiB ≈ 33.55 MB, of which the journal takes 4 MiB ≈ 4.194 MB',
    remedies: ['Leave the journal out'],
  },
  {
    rule: 'ext/loader-may-refuse',
    severity: 'risk',
    bad: on(CARD, [extPart('256 MiB', {}, { role: 'boot', active: true })], { boots: ['board'] }),
    good: on(CARD, [extPart('256 MiB', { profile: 'old loaders' }, { role: 'boot', active: true })], {
      boots: ['board'],
    }),
    says: 'which has the features 64bit and metadata_csum',
    remedies: ['Make it readable by old loaders'],
  },
  {
    rule: 'ext/cannot-grow',
    severity: 'risk',
    bad: image('1 GiB', [extPart('900 MiB', { growTo: 'none', block: '1 KiB' }, { attributes: ['grow'] })], {
      table: { kind: 'gpt', diskId: '6d617272-616d-4c0a-8d05-7469646573aa' },
    }),
    good: image('1 GiB', [extPart('900 MiB', { block: '1 KiB' }, { attributes: ['grow'] })], {
      table: { kind: 'gpt', diskId: '6d617272-616d-4c0a-8d05-7469646573aa' },
    }),
    says: 'a is marked to grow, and its ext4 can grow to',
    remedies: ['Let it grow'],
  },
  {
    rule: 'ext/pair-differs',
    severity: 'risk',
    bad: pair(extPart('500 MiB'), extPart('500 MiB', { block: '1 KiB' })),
    good: pair(extPart('500 MiB'), extPart('500 MiB')),
    says: 'System A and System B differ: block 4 KiB and 1 KiB',
    remedies: ['Make it as System A is'],
  },
];

const FILLED: readonly Case[] = [
  {
    rule: 'files/cannot-be-held',
    severity: 'stop',
    bad: image('1 GiB', [
      fatPart('a', '100 MiB', { files: tree({ kind: 'link', path: 'bin/sh', target: 'tide' }, file('b', 3)) }),
    ]),
    good: image('1 GiB', [extPart('100 MiB', { files: tree({ kind: 'link', path: 'bin/sh', target: 'tide' }) })]),
    says: '“bin/sh” in a is a link; FAT knows files and folders only',
    remedies: [],
    fileRemedies: ['Leave “sh” out'],
  },
  {
    rule: 'files/attribute-cannot-be-stored',
    severity: 'stop',
    bad: image('1 GiB', [
      extPart('100 MiB', { files: tree(file('a', 1, { extended: { 'user.large': 'A'.repeat(8000) } }), file('b', 1)) }),
    ]),
    good: image('1 GiB', [extPart('100 MiB', { files: tree(file('a', 1, { extended: { 'user.small': 'AAAA' } })) })]),
    says: 'The attribute “user.large” of “a” in a finds no room',
    remedies: [],
    fileRemedies: ['Leave “a” out'],
  },
  {
    rule: 'files/too-many-names',
    severity: 'stop',
    bad: image('1 GiB', [extPart('500 MiB', { files: treeOf(manyNames()) })]),
    good: image('1 GiB', [
      extPart('500 MiB', { files: tree(file('one', 1), { kind: 'second name', path: 'two', of: 'one' }) }),
    ]),
    says: '“one” in a has 65,002 names; a file of ext4 has at most 65,000',
    remedies: [],
    fileRemedies: ['Leave these 2 out'],
  },
  {
    rule: 'files/facts-not-kept',
    severity: 'note',
    bad: image('1 GiB', [
      fatPart('a', '100 MiB', { files: tree(file('a', 1, { user: 1000, mode: 0o755 }), file('b', 1)) }),
    ]),
    good: image('1 GiB', [
      extPart('100 MiB', { files: tree(file('a', 1, { user: 1000, mode: 0o755 }), file('b', 1)) }),
    ]),
    says: 'Of 1 name in a, “a” the first, FAT does not keep the owners, modes',
    remedies: [],
  },
];

export const EXT_CASES: readonly Case[] = [...MADE, ...FILLED.map((one) => ({ ...one, contents: CONTENTS }))];
