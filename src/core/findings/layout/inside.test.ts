/** The rules about contents come late to the designer: a layout without any must not need them. */
import { CASES } from '@tests/finding-cases/all';
import { image } from '@tests/finding-cases/case';
import { fatPart, part } from '@tests/samples';
import type { Tree } from '../../filesystems/tree';
import { namesContents } from '../../layout/contents';
import { contentsOf } from '../../filesystems/supplied';
import { placeWritten } from '../../naming/written';
import { check } from './check';
import { checkWith } from './checking';
import { INSIDE_RULES } from './inside';

const LAYOUTS = CASES.flatMap(({ bad, good, contents }) => [
  { layout: bad, contents },
  { layout: good, contents },
]);

test('layouts that say nothing about what is inside are checked alike with and without them', () => {
  const silent = LAYOUTS.filter(({ layout }) => !namesContents(layout));
  expect(silent.length).toBeGreaterThan(150);
  for (const { layout, contents } of silent) {
    const placement = placeWritten(layout, contents);
    expect(checkWith([], placement)).toEqual(checkWith(INSIDE_RULES, placement));
  }
});

test('every layout that they speak about says something of what is inside', () => {
  const spoken = LAYOUTS.filter(({ layout, contents }) => {
    const placement = placeWritten(layout, contents);
    return INSIDE_RULES.some((rule) => rule(placement).length > 0);
  });
  expect(spoken.length).toBeGreaterThan(20);
  expect(spoken.every(({ layout }) => namesContents(layout))).toBe(true);
});

test.each([
  ['nothing', [part('a', '1 GiB'), fatPart('b', 'rest')], false],
  ['exFAT', [part('a', '1 GiB', { content: { kind: 'exfat', volumeId: '7A1D-10C5' } })], true],
  ['files of a FAT', [fatPart('a', '1 GiB', { files: '0'.repeat(64) })], true],
  ['code of a FAT', [fatPart('a', '1 GiB', { code: { sha256: '0'.repeat(64), name: 'c', size: 9 } })], true],
] as const)('%s is seen', (_, slots, expected) => {
  expect(namesContents(image('2 GiB', [...slots]))).toBe(expected);
});

test('code of sector 0 and a file in a raw range are seen', () => {
  const file = { sha256: '0'.repeat(64), name: 'c', size: 9 };
  const table = { kind: 'mbr', signature: '6d617272', code: file } as const;
  expect(namesContents(image('2 GiB', [], { table }))).toBe(true);
  const raw = { id: 'l', kind: 'raw', name: 'l', at: '8 KiB', length: '64 KiB' } as const;
  expect(namesContents(image('2 GiB', [raw]))).toBe(false);
  expect(namesContents(image('2 GiB', [{ ...raw, blob: file }]))).toBe(true);
});

test('a system of files that leave no room for the next is a risk; data may fill its slot', () => {
  const files = '7'.repeat(64);
  const tree: Tree = [{ kind: 'file', path: 'system.bin', size: 90_000_000, sha256: '1'.repeat(64) }];
  const contents = contentsOf(new Map([[files, tree]]), new Map());
  const full = (role: 'system' | 'data') =>
    check(placeWritten(image('1 GiB', [fatPart('a', '96 MiB', { files }, { role, mount: '/' })]), contents)).filter(
      (one) => one.rule === 'content/slot-over-85-full',
    );
  expect(full('system')).toMatchObject([
    { severity: 'risk', sentence: expect.stringMatching(/^Its files take 89\.\d % of a \(96 MiB ≈ 100\.6 MB\)\.$/) },
  ]);
  expect(full('system')[0]!.remedies[0]!.label).toBe('Make a 101 MiB');
  expect(full('data')).toEqual([]);
});
