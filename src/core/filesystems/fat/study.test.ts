import { MIB } from '../../quantity/units';
import { Shelf } from '@tests/filled';
import { roomFor } from './fill';
import { fatGeometry, type FatQuestion } from './geometry';
import {
  countSizes,
  loadOfSizes,
  loadOfTree,
  readersOf,
  readSizes,
  slackOf,
  studyFat,
  TYPICAL_MIXES,
  type TypicalMix,
  typicalSizes,
} from './study';

const place = (bytes: number, more: Partial<FatQuestion> = {}): FatQuestion => {
  const sectorSize = more.sectorSize ?? 512;
  return { sectorSize, start: 2048, sectors: bytes / sectorSize, unit: MIB, ...more };
};
const NOTHING = loadOfSizes(new Map());
const pairs = (rows: readonly { variant: number; clusterBytes: number }[]) =>
  rows.map((row) => `${row.variant}/${row.clusterBytes}`);

test('512 MiB: every legal variant and cluster, and the reason for each other one', () => {
  const study = studyFat(place(512 * MIB), NOTHING);
  expect(pairs(study.rows)).toEqual([
    '16/8192',
    '16/16384',
    '16/32768',
    '16/65536',
    '32/512',
    '32/1024',
    '32/2048',
    '32/4096',
  ]);
  expect(study.rows.length + study.gaps.length).toBe(24);
  expect(study.gaps.find((gap) => gap.variant === 32 && gap.clusterBytes === 8192)!.refusal.reason).toBe(
    'too few clusters',
  );
  expect(study.byRule).toEqual({ variant: 32, clusterBytes: 4096 });
});

test('with 4096-byte sectors no smaller cluster is there', () => {
  const study = studyFat(place(512 * MIB, { sectorSize: 4096 }), NOTHING);
  expect(study.rows.every((row) => row.clusterBytes >= 4096)).toBe(true);
  expect(pairs(study.rows)).toContain('32/4096');
});

test('360 KiB without a table: FAT12, and nothing else', () => {
  const study = studyFat(place(360 * 1024, { start: 0, wholeMedium: true, unit: 512 }), NOTHING);
  expect(new Set(study.rows.map((row) => row.variant))).toEqual(new Set([12]));
  expect(study.byRule).toEqual({ variant: 12, clusterBytes: 1024 });
});

test('slack by hand: three files in clusters of 4 KiB', () => {
  const sizes = countSizes([1, 4096, 4097]);
  expect(slackOf(sizes, 4096)).toEqual({ slack: 4095 + 0 + 4095, taken: 4 * 4096 });
  const row = studyFat(place(512 * MIB), loadOfSizes(sizes)).rows.find((one) => one.clusterBytes === 4096)!;
  expect(row).toMatchObject({ slack: 8190, taken: 16_384, fits: true, onUnit: true });
  expect(row.cluster2 % MIB).toBe(0);
});

test('what does not fit is told for each row', () => {
  const sizes = new Map([[1, 200_000]]);
  const { rows } = studyFat(place(512 * MIB), loadOfSizes(sizes));
  expect(rows.filter((row) => row.fits).map((row) => row.clusterBytes)).toEqual([512, 1024, 2048]);
});

test('the folders of a tree count, to the cluster, as they are laid when it is built', () => {
  const shelf = new Shelf();
  const tree = [
    ...Array.from({ length: 500 }, (_, i) => shelf.file(`logs/Reading ${i} of the Marram Coast.csv`, 100)),
    ...Array.from({ length: 200 }, (_, i) => shelf.file(`Gauge number ${i} of the coast.cfg`, 10)),
  ];
  for (const question of [place(512 * MIB), place(40 * MIB), place(2 * MIB)]) {
    const { rows } = studyFat(question, loadOfTree(tree, 'TIDELOG'));
    expect(rows.length).toBeGreaterThan(0);
    for (const { variant, clusterBytes, taken, inFolders, rootShort, fits, usable } of rows) {
      const found = fatGeometry({ ...question, variant, cluster: clusterBytes });
      if (!found.ok) throw new Error('a row without a volume');
      const room = roomFor(tree, found.value, 'TIDELOG');
      // The study counts the first cluster of a root directory in clusters as not usable.
      const ahead = variant === 32 ? 1 : 0;
      const expected = { clusters: taken / clusterBytes + ahead, all: usable / clusterBytes + ahead, rootShort, fits };
      expect(expected).toEqual({
        clusters: room.used,
        all: room.clusters,
        rootShort: room.rootShort,
        fits: room.used <= room.clusters && room.rootShort === 0,
      });
      // 500 names of four entries each, and the two of every folder.
      expect(inFolders).toBeGreaterThanOrEqual(Math.ceil((32 * (500 * 4 + 2)) / clusterBytes) * clusterBytes);
    }
  }
});

test('a pasted list: numbers with units and names; what is no size is counted', () => {
  const read = readSizes(
    '1024 BUOY07.CSV\n 2.5 KiB\n3M kernel\n1,000 bytes\n1_000\n2 MB\n1.5kB\n7b\n\nno size\n12abc\n',
  );
  expect([...read.sizes]).toEqual([
    [1024, 1],
    [2560, 1],
    [3 * MIB, 1],
    [1000, 2],
    [2_000_000, 1],
    [1500, 1],
    [7, 1],
  ]);
  expect([read.files, read.skipped]).toEqual([8, 2]);
});

test.each<[string, number | undefined]>([
  ['5', 5],
  ['\t 5 ', 5],
  ['5 k', 5120],
  ['5K name', 5120],
  ['5 kernel', 5],
  ['5 gib.txt', 5],
  ['0.5 GiB', 2 ** 29],
  ['5.', undefined],
  ['.5', undefined],
  ['5,', 5],
  [',5', undefined],
  ['5 bytes of it', 5],
  ['5kBs', undefined],
  ['9007199254740993', undefined],
  ['9999999999 GiB', undefined],
  ['-5', undefined],
  ['5 µ', 5],
])('the line “%s” tells %s', (line, size) => {
  const read = readSizes(`${line}\n1 last`);
  expect([...read.sizes.keys()]).toEqual(size === 1 || size === undefined ? [1] : [size, 1]);
  expect(read.skipped).toBe(size === undefined ? 1 : 0);
});

test.each(Object.keys(TYPICAL_MIXES) as TypicalMix[])('the mix “%s” fills about half', (mix) => {
  const usable = 2 ** 31;
  const { taken } = slackOf(typicalSizes(mix, usable), 512);
  expect(taken / usable).toBeGreaterThan(0.4);
  expect(taken / usable).toBeLessThan(0.6);
});

test('who reads what', () => {
  const said = (variant: 12 | 16 | 32, clusterBytes: number, sectorSize: 512 | 4096, bytes: number) =>
    readersOf({ variant, clusterBytes, sectorSize, totalSectors: bytes / sectorSize })
      .map((one) => one.copes)
      .join(' ');
  expect(said(32, 4096, 512, 8e9)).toBe('yes no yes yes yes');
  expect(said(16, 32_768, 512, 1e9)).toBe('mostly yes yes yes mostly');
  expect(said(12, 512, 512, 1e6)).toBe('mostly yes no yes mostly');
  expect(said(32, 65_536, 512, 8e9)).toBe('mostly no no mostly no');
  expect(said(32, 4096, 4096, 8e9)).toBe('yes no no yes no');
});
