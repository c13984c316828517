/** What a real Linux kernel sees in images that Loess built. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, layoutOn, part, raw } from '@tests/samples';
import { check, stopsAmong } from '@/core/findings/check';
import { type Layout } from '@/core/layout/document';
import { readLayout } from '@/core/layout/validate';
import { place } from '@/core/placement/place';
import { isPartition, type Placement } from '@/core/placement/placement';
import { writeImage } from '@/server/image-file';
import { type GuestReport, lookAt, type SeenPartition } from './guest';

const FILL_LIMIT = 512 * 2 ** 20;

function demo(name: string): Layout {
  const read = readLayout(readFileSync(`demo/${name}.json`, 'utf8'));
  if (!read.ok) throw new Error(`${read.error[0]!.path} ${read.error[0]!.message}`);
  return read.value;
}

const card = { kind: 'card', capacity: { nominal: '2 GB' }, logicalSector: 512, physicalSector: 512 } as const;
const large = { kind: 'image', capacity: { exact: '900 MiB' }, logicalSector: 4096, physicalSector: 4096 } as const;

/** Layouts over cluster size, alignment, sector size, marks and labels. */
const LAYOUTS: readonly Layout[] = [
  demo('gauge-logger'),
  demo('service-stick'),
  layoutOn('1 GiB', [
    fatPart('tight', '34100000 B', { label: 'BUOY 07' }),
    fatPart('one', '80 MiB', { cluster: '1 KiB' }),
    fatPart('four', '300 MiB', { cluster: '4 KiB', label: 'GAUGE_A' }),
    fatPart('rest', 'rest', { label: 'TIDESHARE' }),
  ]),
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
    [raw('loader', '32 KiB', '7 MiB'), fatPart('unit', '400 MiB'), fatPart('wide', 'rest', { cluster: '16 KiB' })],
    {
      medium: { ...card, writeUnit: '8 MiB' },
      boots: ['board'],
    },
  ),
  layoutOn(
    '900 MiB',
    [fatPart('first', '300 MiB', { label: 'TIDE VAULT' }), part('left', '4 MiB'), fatPart('second', 'rest')],
    {
      medium: large,
    },
  ),
];

interface Case {
  readonly placement: Placement;
  readonly disk: { readonly file: string; readonly sectorSize: 512 | 4096 };
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
    cases.push({ placement, disk: { file, sectorSize: placement.sectorSize } });
  }
  report = await lookAt(cases.map((one) => one.disk));
}, 10 * 60_000);

afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

/** All partitions that were meant, beside what the kernel saw of them. */
function pairs() {
  return cases.flatMap(({ placement }, i) =>
    placement.placed
      .filter(isPartition)
      .map((meant, j): [Placement, typeof meant, SeenPartition | undefined] => [
        placement,
        meant,
        report.disks[i]?.partitions[j],
      ]),
  );
}

test('the layouts have no stop', () => {
  expect(LAYOUTS.map((layout) => stopsAmong(check(place(layout))))).toEqual(LAYOUTS.map(() => []));
});

test('the kernel sees the disks with their sector size and length', () => {
  expect(report.disks.map((disk) => [disk.sectors * 512, disk.logicalSector])).toEqual(
    cases.map(({ placement }) => [placement.sectors * placement.sectorSize, placement.sectorSize]),
  );
});

test('start, size, number, type, mark and id of every partition are those of the placement', () => {
  const inUnits = (sectors: number, placement: Placement) => (sectors * placement.sectorSize) / 512;
  const meant = pairs().map(([placement, one]) => ({
    number: one.entry!.number,
    start: inUnits(one.start, placement),
    size: inUnits(one.sectors, placement),
    type: `0x${parseInt(one.entry!.type, 16).toString(16)}`,
    id: one.entry!.id,
    active: one.slot.active === true,
  }));
  const seen = pairs().map(([, , one]) => ({
    number: one?.number,
    start: one?.start,
    size: one?.size,
    type: one?.facts.PART_ENTRY_TYPE,
    id: one?.facts.PART_ENTRY_UUID,
    active: one?.facts.PART_ENTRY_FLAGS === '0x80',
  }));
  expect(seen).toEqual(meant);
  expect(report.disks.map((disk) => disk.partitions.length)).toEqual(
    cases.map(({ placement }) => placement.placed.filter(isPartition).length),
  );
});

test('each FAT volume mounts for writing, takes 300 files with long names, and gives them back', () => {
  const volumes = pairs().filter(([, meant]) => meant.fat?.ok);
  expect(volumes.length).toBeGreaterThanOrEqual(12);
  for (const [, meant, seen] of volumes) {
    const label = meant.slot.fileSystem!.label;
    expect({ name: meant.slot.name, ...seen?.facts }).toMatchObject({
      name: meant.slot.name,
      TYPE: 'vfat',
      VERSION: 'FAT32',
      UUID: meant.slot.fileSystem!.volumeId,
      ...(label && { LABEL: label }),
      mounted: 'yes',
      files: '300',
      kept: 'yes',
    });
  }
});

test('the free bytes are the advertised ones, and volumes up to 512 MiB can be filled to the last', () => {
  let filled = 0;
  for (const [, meant, seen] of pairs()) {
    if (!meant.fat?.ok) continue;
    const { bytesForFiles, clusters, clusterBytes } = meant.fat.value;
    const facts = { name: meant.slot.name, cluster: seen?.facts.cluster, free: seen?.facts.free };
    expect(facts).toEqual({ name: meant.slot.name, cluster: String(clusterBytes), free: String(bytesForFiles) });
    if (clusters * clusterBytes > FILL_LIMIT) continue;
    filled += 1;
    expect({ name: meant.slot.name, full: seen?.facts.full, filled: seen?.facts.filled }).toEqual({
      name: meant.slot.name,
      full: 'yes',
      filled: String(bytesForFiles),
    });
  }
  expect(filled).toBeGreaterThanOrEqual(7);
});

test('the kernel log has no complaint about a disk or a file system', () => {
  const about = report.log.filter((line) => /vd[a-z]|FAT|fat|I\/O/.test(line.replace(/default|defaults/g, '')));
  const complaints = about.filter((line) =>
    /error|corrupt|invalid|fail|unmount|bogus|truncat|exceed|beyond|warn/i.test(line),
  );
  expect(complaints).toEqual([]);
  expect(about.length).toBeGreaterThanOrEqual(LAYOUTS.length);
});
