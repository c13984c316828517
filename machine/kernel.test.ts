/** What a real Linux kernel sees in images that Loess built. */
import type { ContentOf } from '@/core/filesystems/shapes';
import { madeAs } from '@/core/filesystems/kinds';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, layoutOn, part, raw } from '@tests/samples';
import { cases as tierCases, oneOf } from '@tests/tier';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import { checkSurvey } from '@/core/findings/survey/check';
import { clusterSizes, VARIANTS } from '@/core/filesystems/fat/variants';
import type { Layout } from '@/core/layout/document';
import { readLayout } from '@/core/layout/validate';
import { place } from '@/core/placement/place';
import { isPartition, type PlacedPartition, type Placement } from '@/core/placement/placement';
import { attributeBits, storedName } from '@/core/tables/gpt';
import { writeImage } from '@/files/image-file';
import { type GuestDisk, type GuestReport, lookAt, type SeenPartition } from './guest';
import { type Combination, COMBINATIONS, isLegal, layoutFor } from './pairs';
import { surveyFile, tablesOf } from './tables';

function demo(name: string): Layout {
  const read = readLayout(readFileSync(`demo/${name}.json`, 'utf8'));
  if (!read.ok) throw new Error(`${read.error[0]!.path} ${read.error[0]!.message}`);
  return read.value;
}

const card = { kind: 'card', capacity: { nominal: '2 GB' }, logicalSector: 512, physicalSector: 512 } as const;

/** Layouts of pairs of the factors: some of them, all in the second tier. */
const PAIRS = oneOf(4, COMBINATIONS.map(layoutFor));

/** The demo, and layouts with odd sizes, grains and raw ranges; then the pairs. */
const LAYOUTS: readonly Layout[] = [
  demo('gauge-logger'),
  demo('service-stick'),
  demo('float-recorder-64'),
  demo('harbour-display'),
  layoutOn(
    '700001 sectors',
    [fatPart('odd', '200001 sectors'), part('system', '63 sectors'), fatPart('tail', 'rest')],
    {
      grain: '63 sectors',
      table: { kind: 'mbr', signature: '0000000a' },
    },
  ),
  layoutOn(
    '2 GB',
    [raw('loader', '32 KiB', '7 MiB'), fatPart('unit', '200 MiB'), fatPart('wide', 'rest', { cluster: '16 KiB' })],
    {
      medium: { ...card, writeUnit: '8 MiB' },
      boots: ['board'],
    },
  ),
  ...PAIRS,
];

interface Case {
  readonly placement: Placement;
  /** The pairs keep what the kernel writes, so that it can be looked at afterwards. */
  readonly disk: GuestDisk;
  readonly tables: string;
}

let folder: string;
let cases: Case[];
let report: GuestReport;

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-machine-'));
  cases = [];
  for (const [i, layout] of LAYOUTS.entries()) {
    const placement = place(layout);
    const file = path.join(folder, `${i}.img`);
    await writeImage({ placement, path: file, signal: new AbortController().signal, onProgress: () => undefined });
    const keeps = i >= LAYOUTS.length - PAIRS.length;
    const disk = { file, sectorSize: placement.sectorSize, keeps };
    cases.push({ placement, disk, tables: tablesOf(file, placement) });
  }
  report = await lookAt(cases.map((one) => one.disk));
});

afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

/** All partitions that were meant, beside what the kernel saw of them. */
function pairs() {
  return cases.flatMap(({ placement }, i) =>
    placement.placed
      .filter(isPartition)
      .map((meant, j): [Placement, PlacedPartition, SeenPartition | undefined] => [
        placement,
        meant,
        report.disks[i]?.partitions[j],
      ]),
  );
}

test('every legal pair of values of two factors occurs', () => {
  const values: { readonly [Key in keyof Combination]: readonly Combination[Key][] } = {
    table: ['mbr', 'gpt', 'none'],
    sectorSize: [512, 4096],
    variant: VARIANTS,
    cluster: clusterSizes(512),
  };
  const names = Object.keys(values) as (keyof Combination)[];
  const missing = names.flatMap((a, i) =>
    names.slice(i + 1).flatMap((b) =>
      values[a].flatMap((x) =>
        values[b].flatMap((y) => {
          const pair = { [a]: x, [b]: y };
          return isLegal(pair) && !COMBINATIONS.some((one) => one[a] === x && one[b] === y) ? [pair] : [];
        }),
      ),
    ),
  );
  expect(missing).toEqual([]);
  expect(COMBINATIONS.length).toBe(24);
});

test('the layouts have no stop, and the pairs are what they say', () => {
  expect(LAYOUTS.map((layout) => stopsAmong(check(place(layout))))).toEqual(LAYOUTS.map(() => []));
  COMBINATIONS.forEach((one, i) => {
    const placement = place(layoutFor(one, i));
    const fat = madeAs(placement.placed.at(-1)!, 'fat');
    expect(fat).toMatchObject({ ok: true, value: { variant: one.variant, clusterBytes: one.cluster } });
    expect([placement.layout.table.kind, placement.sectorSize]).toEqual([one.table, one.sectorSize]);
  });
});

test('the kernel sees the disks with their sector size and length', () => {
  expect(report.disks.map((disk) => [disk.sectors * 512, disk.logicalSector])).toEqual(
    cases.map(({ placement }) => [placement.sectors * placement.sectorSize, placement.sectorSize]),
  );
});

/** What a table says of a partition, as it should be seen; without a table it is the disk. */
function meantOf(placement: Placement, one: PlacedPartition) {
  const { slot, entry, start, sectors } = one;
  const inUnits = (n: number) => (n * placement.sectorSize) / 512;
  if (!entry) return { number: 0, start: 0, size: inUnits(placement.sectors) };
  const common = { number: entry.number, start: inUnits(start), size: inUnits(sectors), id: entry.id };
  if (placement.layout.table.kind === 'mbr')
    return { ...common, type: `0x${parseInt(entry.type, 16).toString(16)}`, flags: slot.active ? '0x80' : undefined };
  const bits = attributeBits(slot.attributes ?? []);
  return {
    ...common,
    type: entry.type,
    name: storedName(slot.name),
    flags: bits === 0n ? undefined : `0x${bits.toString(16)}`,
  };
}

function seenOf(placement: Placement, seen: SeenPartition | undefined) {
  if (!seen) return undefined;
  const { number, start, size, facts } = seen;
  const { kind } = placement.layout.table;
  if (kind === 'none') return { number, start, size };
  return {
    number,
    start,
    size,
    id: facts.PART_ENTRY_UUID,
    type: facts.PART_ENTRY_TYPE,
    flags: facts.PART_ENTRY_FLAGS,
    ...(kind === 'gpt' && { name: facts.PART_ENTRY_NAME }),
  };
}

test('start, size, number, type, marks, attributes, names and ids are those of the placement', () => {
  for (const [placement, meant, seen] of pairs()) expect(seenOf(placement, seen)).toEqual(meantOf(placement, meant));
  expect(report.disks.map((disk) => disk.partitions.length)).toEqual(
    cases.map(({ placement }) => placement.placed.filter(isPartition).length),
  );
});

test('each FAT volume mounts for writing, takes 150 files with long names, and gives them back', () => {
  const volumes = pairs().filter(([, meant]) => madeAs(meant, 'fat')?.ok);
  expect(volumes.length).toBeGreaterThanOrEqual(tierCases(12, 30));
  for (const [, meant, seen] of volumes) {
    const fat = madeAs(meant, 'fat');
    const { label, volumeId } = meant.slot.content as ContentOf<'fat'>;
    expect({ name: meant.slot.name, ...seen?.facts }).toMatchObject({
      name: meant.slot.name,
      TYPE: 'vfat',
      VERSION: fat?.ok && `FAT${fat.value.variant}`,
      UUID: volumeId,
      ...(label && { LABEL: label }),
      mounted: 'yes',
      files: fat?.ok && roomForAll(fat.value) ? '150' : expect.any(String),
      kept: 'yes',
    });
  }
});

/** A fixed root directory of 512 entries cannot hold 150 long names of four or five entries each. */
function roomForAll({
  variant,
  bytesForFiles,
  clusterBytes,
}: {
  variant: number;
  bytesForFiles: number;
  clusterBytes: number;
}) {
  return variant === 32 && bytesForFiles > 600 * clusterBytes;
}

test('the free bytes are the advertised ones', () => {
  for (const [, meant, seen] of pairs()) {
    const fat = madeAs(meant, 'fat');
    if (!fat?.ok) continue;
    const { bytesForFiles, clusterBytes } = fat.value;
    const facts = { name: meant.slot.name, cluster: seen?.facts.cluster, free: seen?.facts.free };
    expect(facts).toEqual({ name: meant.slot.name, cluster: String(clusterBytes), free: String(bytesForFiles) });
  }
});

test('after all that no byte of a table has changed, no rule objects, and FSInfo equals the count', async () => {
  for (const { placement, disk, tables } of cases.filter((one) => one.disk.keeps)) {
    expect(tablesOf(disk.file, placement)).toBe(tables);
    const survey = await surveyFile(disk);
    const { name } = placement.placed.at(-1)!.slot;
    expect([name, ...checkSurvey(survey).map((one) => one.sentence)]).toEqual([name, ...largeClusters(placement)]);
    const inside = survey.partitions.at(-1)!.inside;
    if (inside.kind !== 'fat') throw new Error(`${name}: ${inside.kind}`);
    expect(inside.fat.freeCounted).toBeLessThan(inside.fat.shape.clusters - 1);
    if (inside.fat.shape.variant === 32) expect(inside.fat.freeTold).toBe(inside.fat.freeCounted);
  }
});

/** The one thing that is said of a sound volume: its clusters are of 64 KiB. */
function largeClusters({ placed }: Placement): string[] {
  const fat = madeAs(placed.at(-1)!, 'fat');
  return fat?.ok && fat.value.clusterBytes > 32_768 ? [expect.stringMatching('clusters of 64 KiB') as string] : [];
}

test('the kernel log has no complaint about a disk, a table or a file system', () => {
  const about = report.log.filter((line) => /vd[a-z]|FAT|fat|GPT|I\/O/.test(line.replace(/default|defaults/g, '')));
  const complaints = about.filter((line) =>
    /error|corrupt|invalid|fail|unmount|bogus|truncat|exceed|beyond|warn|alternate|not at the end/i.test(line),
  );
  expect(complaints).toEqual([]);
  expect(about.length).toBeGreaterThanOrEqual(LAYOUTS.length);
});
