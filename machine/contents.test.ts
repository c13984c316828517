/** What a real Linux kernel finds in volumes that Loess filled: every variant, cluster and sector size that the study offers. */
import { exactText, inBinary, MIB } from '@/core/quantity/units';
import { madeAs } from '@/core/filesystems/kinds';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { cases } from '@tests/tier';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import { fatGeometry } from '@/core/filesystems/fat/geometry';
import { clusterSizes, leastClusters, type Variant, VARIANTS } from '@/core/filesystems/fat/variants';
import type { Tree } from '@/core/filesystems/tree';
import { fillingOf } from '@/core/layout/contents';
import type { Layout, PartitionSlot } from '@/core/layout/document';
import { isPartition, type PlacedPartition, type Placement } from '@/core/placement/placement';
import { roomOf } from '@/core/placement/volumes';
import { buildFilled, oddTree, smallTree, statsSum, TestStore, treeSum } from './fill';
import { type GuestDisk, type GuestReport, lookAt } from './guest';
import path from 'node:path';

const FILL_LIMIT = 512 * MIB;
const SECTOR_SIZES = [512, 4096] as const;
/** Cluster sizes of FAT that are tried: some, all in the second tier. */
const fatClusters = (sectorSize: 512 | 4096) =>
  cases(
    clusterSizes(sectorSize).filter((_, i) => (sectorSize === 512 ? i % 4 === 0 : i === 2)),
    clusterSizes(sectorSize),
  );
/** Cluster sizes of exFAT that are tried; every one doubles the least volume. */
const EXFAT_CLUSTERS = cases([512, 32_768], [512, 4096, 32_768, 131_072, MIB]);

let folder: string;
let store: TestStore;
let report: GuestReport;
let placements: Placement[];
const trees = new Map<string, Tree>();

/** A volume of a variant with a cluster size, hardly larger than it must be. */
function bytesFor(variant: Variant, cluster: number): number {
  if (variant === 12) return (Math.ceil((60 * cluster) / MIB) + 1) * MIB;
  return Math.ceil(((leastClusters(variant) + 100) * (cluster + 8)) / MIB + 2) * MIB;
}

function fatSlots(sectorSize: 512 | 4096): PartitionSlot[] {
  return fatClusters(sectorSize).flatMap((cluster) =>
    VARIANTS.map((variant, i) => {
      const size = exactText(bytesFor(variant, cluster), sectorSize);
      const id = `fat${variant}-${cluster}`;
      const [files, tree] = remember(
        variant === 12 && cluster < 8192 ? smallTree(store.shelf) : oddTree(store.shelf, 100 + cluster + i),
      );
      trees.set(`${sectorSize} ${id}`, tree);
      return fatPart(id, size, {
        variant,
        cluster: inBinary(cluster),
        label: `T${variant}`,
        files,
        ...(i % 2 === 0 && { times: 'of the files' }),
      });
    }),
  );
}

function remember(tree: Tree): [string, Tree] {
  return [store.tree(tree), tree];
}

function exfatSlots(sectorSize: 512 | 4096): PartitionSlot[] {
  return EXFAT_CLUSTERS.filter((cluster) => cluster >= sectorSize).map((cluster, i) => {
    const id = `exfat-${cluster}`;
    const [files, tree] = remember(oddTree(store.shelf, 900 + i));
    trees.set(`${sectorSize} ${id}`, tree);
    const bytes = Math.max(4 * MIB, 80 * cluster);
    return part(id, exactText(bytes, sectorSize), {
      content: {
        kind: 'exfat',
        volumeId: `7A1D-1${String(i).padStart(3, '0')}`,
        cluster: inBinary(cluster),
        label: 'Tide data',
        files,
        ...(i % 2 === 0 && { times: 'of the files' }),
      },
    });
  });
}

function layoutFor(sectorSize: 512 | 4096): Layout {
  const slots = [
    ...fatSlots(sectorSize),
    ...exfatSlots(sectorSize),
    part('swap', '8 MiB', {
      role: 'swap',
      content: { kind: 'swap', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', label: 'TIDESWAP' },
    }),
  ];
  const exact = '16 GiB';
  return layoutOn(exact, slots, {
    table: GPT_TABLE,
    medium: {
      kind: 'image',
      capacity: { exact },
      logicalSector: sectorSize,
      physicalSector: sectorSize,
      writeUnit: '64 KiB',
    },
  });
}

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-contents-'));
  store = new TestStore(path.join(folder, 'store'));
  placements = [];
  const disks: GuestDisk[] = [];
  for (const sectorSize of SECTOR_SIZES) {
    const file = path.join(folder, `${sectorSize}.img`);
    placements.push(await buildFilled(layoutFor(sectorSize), store, file));
    disks.push({ file, sectorSize, fills: true });
  }
  report = await lookAt(disks);
});

afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

function volumes(): [Placement, PlacedPartition, Readonly<Record<string, string>>][] {
  return placements.flatMap((placement, i) =>
    placement.placed
      .filter(isPartition)
      .map((one, j): [Placement, PlacedPartition, Readonly<Record<string, string>>] => [
        placement,
        one,
        report.disks[i]!.partitions.find((seen) => seen.number === j + 1)!.facts,
      ]),
  );
}

test('every combination that a study can offer is there, and none has a stop', () => {
  for (const placement of placements) {
    expect(stopsAmong(check(placement)).map((one) => one.sentence)).toEqual([]);
    const made = placement.placed.flatMap((one) => {
      const fat = madeAs(one, 'fat');
      return fat?.ok ? [`${fat.value.variant} ${fat.value.clusterBytes}`] : [];
    });
    const wanted = VARIANTS.flatMap((variant) =>
      fatClusters(placement.sectorSize)
        .filter(
          (cluster) =>
            fatGeometry({
              sectorSize: placement.sectorSize,
              start: 0,
              sectors: bytesFor(variant, cluster) / placement.sectorSize,
              unit: 65_536,
              variant,
              cluster,
            }).ok,
        )
        .map((cluster) => `${variant} ${cluster}`),
    );
    expect(made.sort()).toEqual(wanted.sort());
  }
  expect(volumes().length).toBe(cases(6 + 2 + 1 + (3 + 1 + 1), 24 + 5 + 1 + (15 + 4 + 1)));
});

test('each mounts, and all names and contents are those that were put in', () => {
  for (const [placement, { slot }, facts] of volumes()) {
    const tree = trees.get(`${placement.sectorSize} ${slot.id}`);
    if (!tree) continue;
    const at = `${placement.sectorSize} ${slot.id}`;
    const files = tree.filter((one) => one.kind === 'file').length;
    expect({ at, mounted: facts.mounted, found: facts.found, tree: facts.tree }).toEqual({
      at,
      mounted: 'yes',
      found: String(files),
      tree: treeSum(tree, store.shelf),
    });
  }
});

test('times are those of the layout, or of the files where that was asked, and marks hold', () => {
  let own = 0;
  for (const [placement, { slot }, facts] of volumes()) {
    const tree = trees.get(`${placement.sectorSize} ${slot.id}`);
    if (!tree) continue;
    const { date } = placement.layout;
    const keeps = fillingOf(slot)!.times !== undefined;
    if (keeps) own += 1;
    const meant = statsSum(tree, ({ time }) => (keeps && time !== undefined ? time : date));
    expect({ at: `${placement.sectorSize} ${slot.id}`, stats: facts.stats }).toEqual({
      at: `${placement.sectorSize} ${slot.id}`,
      stats: meant,
    });
  }
  expect(own).toBeGreaterThanOrEqual(cases(4, 20));
});

test('the free bytes are those that are told, and volumes up to 512 MiB can be filled to the last of them', () => {
  let filled = 0;
  let grown = 0;
  for (const [placement, placed, facts] of volumes()) {
    const room = roomOf(placed, placement);
    if (!room) continue;
    const free = (room.clusters - room.used) * room.clusterBytes;
    const at = `${placement.sectorSize} ${placed.slot.id}`;
    expect({ at, cluster: facts.cluster, free: facts.free }).toEqual({
      at,
      cluster: String(room.clusterBytes),
      free: String(free),
    });
    if (room.clusters * room.clusterBytes > FILL_LIMIT) continue;
    filled += 1;
    const entry = Number(facts.entry);
    expect([0, room.clusterBytes]).toContain(entry);
    grown += entry === 0 ? 0 : 1;
    expect({ at, full: facts.full, filled: facts.filled, kept: facts.kept }).toEqual({
      at,
      full: 'yes',
      filled: String(free - entry),
      kept: 'yes',
    });
  }
  expect(filled).toBeGreaterThanOrEqual(cases(8, 35));
  expect(grown).toBeLessThan(4);
});

test('labels and ids are the ones of the document', () => {
  for (const [, { slot }, facts] of volumes()) {
    const { content } = slot;
    if (content?.kind === 'fat')
      expect([facts.TYPE, facts.LABEL, facts.UUID]).toEqual(['vfat', content.label, content.volumeId]);
    if (content?.kind === 'exfat')
      expect([facts.TYPE, facts.LABEL, facts.UUID]).toEqual(['exfat', content.label, content.volumeId]);
    if (content?.kind === 'swap')
      expect([facts.TYPE, facts.LABEL, facts.UUID]).toEqual(['swap', content.label, content.uuid]);
  }
});

test('swap is switched on with all its pages but the first, and off again', () => {
  const swaps = volumes().filter(([, { slot }]) => slot.content?.kind === 'swap');
  expect(swaps.map(([, , facts]) => [facts.swapped, facts.unswapped])).toEqual([
    [String(8 * 1024 - 4), 'yes'],
    [String(8 * 1024 - 4), 'yes'],
  ]);
});

test('the kernel log has no complaint', () => {
  const about = report.log.filter((line) =>
    /vd[a-z]|FAT|fat|swap|GPT|I\/O/i.test(line.replace(/default|defaults/g, '')),
  );
  expect(
    about.filter((line) => /error|corrupt|invalid|fail|unmount|bogus|truncat|exceed|beyond|warn/i.test(line)),
  ).toEqual([]);
});
