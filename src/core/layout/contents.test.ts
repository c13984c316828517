/** What a document refers to, and how slots get and lose their files. */
import type { ContentOf } from '../filesystems/shapes';
import { fatPart, GPT_TABLE, layoutOn, NO_TABLE, part, raw } from '@tests/samples';
import type { Tree } from '../filesystems/tree';
import { fillingOf, referredTo, namesContents, treeOfSlot, withFiles } from './contents';
import { blobOf, contentsOf, NO_CONTENTS } from '../filesystems/supplied';
import type { PartitionSlot, RawSlot, Slot } from './document';

const sum = (digit: string) => digit.repeat(64);
const file = (digit: string, name = 'a.bin') => ({ sha256: sum(digit), name, size: 9 });
const EXFAT = { kind: 'exfat', volumeId: '7A1D-10C5' } as const;

const loader: RawSlot = { ...(raw('loader', '8 KiB', '32 KiB') as RawSlot), blob: file('1') };
const boot = fatPart('boot', '40 MiB', { files: sum('2'), code: file('3') });
const wide = part('wide', '40 MiB', { content: { ...EXFAT, files: sum('4') } });
const system = part('system', '40 MiB', { content: { kind: 'image', ...file('5') } });
const other = part('other', '40 MiB', { content: { kind: 'file', ...file('1') } });

test('everything that is named is named once, trees and other files apart', () => {
  const slots: Slot[] = [loader, boot, wide, system, other, { id: 'f', kind: 'free', name: 'F', size: 'rest' }];
  const { trees, blobs } = referredTo(layoutOn('1 GiB', slots, { table: { ...GPT_TABLE, code: file('6') } }));
  expect(trees).toEqual([sum('2'), sum('4')]);
  expect([...blobs].sort()).toEqual(['1', '3', '5', '6'].map(sum));
  expect(referredTo(layoutOn('1 GiB', [part('a', 'rest')], { table: NO_TABLE }))).toEqual({ trees: [], blobs: [] });
});

test.each<[string, Slot[], boolean]>([
  ['a file system alone', [fatPart('a', 'rest')], false],
  ['a slot that is left to its system', [part('a', 'rest')], false],
  ['files', [boot], true],
  ['boot code of a volume', [fatPart('a', 'rest', { code: file('3') })], true],
  ['a loader', [loader], true],
  ['a raw range without one', [raw('loader', '8 KiB', '32 KiB')], false],
  ['zeros', [part('a', 'rest', { content: { kind: 'zeros' } })], true],
])('%s: the layout says what is inside, or does not', (_, slots, says) => {
  expect(namesContents(layoutOn('1 GiB', slots))).toBe(says);
});

test('boot code of sector 0 says what is inside too', () => {
  expect(namesContents(layoutOn('1 GiB', [], { table: { ...GPT_TABLE, code: file('6') } }))).toBe(true);
  expect(namesContents(layoutOn('1 GiB', [], { table: GPT_TABLE }))).toBe(false);
});

test('files are put into what can hold them, and taken out, and all else stays', () => {
  const change = (slot: PartitionSlot, files: string | undefined) => ({ ...slot, ...withFiles(slot, files) });
  expect(fillingOf(change(boot, sum('7')))).toMatchObject({ files: sum('7') });
  expect((change(boot, sum('7')).content as ContentOf<'fat'>).code).toEqual(file('3'));
  expect(change(boot, undefined).content).toEqual(fatPart('boot', '40 MiB', { code: file('3') }).content);
  expect(change(wide, undefined).content).toEqual(EXFAT);
  expect(change(system, sum('7'))).toEqual(system);
  expect(fillingOf(system)).toBeUndefined();
});

test('what is missing, and what was not looked for, are told apart from what is there', () => {
  const tree = [{ kind: 'folder', path: 'a' }] as const;
  const facts = { size: 9, head: new Uint8Array(9) };
  const trees = new Map<string, Tree | 'missing'>([
    [sum('2'), tree],
    [sum('4'), 'missing'],
  ]);
  const known = contentsOf(trees, new Map([[sum('1'), facts]]));
  expect(treeOfSlot(boot, known)).toBe(tree);
  expect(treeOfSlot(wide, known)).toBeUndefined();
  expect(known.tree(sum('4'))).toBe('missing');
  expect(NO_CONTENTS.tree(sum('4'))).toBeUndefined();
  expect(treeOfSlot(fatPart('a', 'rest'), NO_CONTENTS)).toEqual([]);
  expect(treeOfSlot(boot, NO_CONTENTS)).toBeUndefined();
  expect(blobOf(sum('1'), known)).toBe(facts);
  expect(blobOf(sum('9'), known)).toBeUndefined();
  expect(blobOf(undefined, known)).toBeUndefined();
});
