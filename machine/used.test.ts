/** What a real Linux kernel finds on media that were full of noise and old marks before, and on small ones without a table. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, GPT_TABLE, layoutOn, NO_TABLE, part } from '@tests/samples';
import { cases, oneOf } from '@tests/tier';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import type { Tree } from '@/core/filesystems/tree';
import type { Layout, PartitionSlot } from '@/core/layout/document';
import { isPartition, type PlacedPartition, type Placement } from '@/core/placement/placement';
import { roomOf } from '@/core/placement/volumes';
import { layOverNoise, oddTree, smallTree, TestStore, treeSum } from './fill';
import { type GuestDisk, type GuestReport, lookAt } from './guest';

let folder: string;
let store: TestStore;
let report: GuestReport;
let placements: Placement[];
const trees = new Map<string, Tree>();

function remember(tree: Tree): string {
  const sha256 = store.tree(tree);
  trees.set(sha256, tree);
  return sha256;
}

const EXFAT = { kind: 'exfat', volumeId: '7A1D-10C5', label: 'Wide tide' } as const;
const SWAP = { kind: 'swap', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', label: 'TIDESWAP' } as const;

/** One of everything that can be made. */
function everything(sectorSize: 512 | 4096): Layout {
  const files = () => remember(oddTree(store.shelf, sectorSize + trees.size));
  const slots: PartitionSlot[] = [
    fatPart('fat12', '4 MiB', { variant: 12, files: files() }),
    fatPart('fat16', '20 MiB', { variant: 16, files: files() }),
    fatPart('fat32', sectorSize === 512 ? '40 MiB' : '260 MiB', { variant: 32, files: files() }),
    part('exfat', '16 MiB', { content: { ...EXFAT, files: files() } }),
    part('swap', '4 MiB', { role: 'swap', content: SWAP }),
    part('left', '4 MiB'),
    part('zeros', '4 MiB', { content: { kind: 'zeros' } }),
  ];
  const exact = sectorSize === 512 ? '96 MiB' : '320 MiB';
  const medium = { kind: 'image', capacity: { exact }, logicalSector: sectorSize, physicalSector: sectorSize } as const;
  return layoutOn(exact, slots, { table: GPT_TABLE, medium });
}

/** A volume over the whole medium, with a few files. */
const alone = (exact: string, slot: (files: string) => PartitionSlot): Layout =>
  layoutOn(exact, [slot(remember(smallTree(store.shelf)))], { table: NO_TABLE });

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-used-'));
  store = new TestStore(path.join(folder, 'store'));
  const layouts: readonly Layout[] = oneOf(2, [
    everything(512),
    everything(4096),
    ...['360 KiB', '720 KiB', '1440 KiB'].map((size) =>
      alone(size, (files) => fatPart('small', 'rest', { variant: undefined, files })),
    ),
    alone('24 MiB', (files) => fatPart('fat16', 'rest', { variant: 16, files })),
    alone('36 MiB', (files) => fatPart('fat32', 'rest', { variant: 32, files })),
    alone('8 MiB', (files) => part('exfat', 'rest', { content: { ...EXFAT, files } })),
  ]);
  placements = [];
  const disks: GuestDisk[] = [];
  for (const [i, layout] of layouts.entries()) {
    const file = path.join(folder, `${i}.img`);
    const placement = await layOverNoise(layout, store, file);
    placements.push(placement);
    disks.push({ file, sectorSize: placement.sectorSize, fills: true });
  }
  report = await lookAt(disks);
});

afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

/** Every partition with what the guest says of it. */
function seen(): {
  at: string;
  placement: Placement;
  placed: PlacedPartition;
  facts: Readonly<Record<string, string>>;
}[] {
  return placements.flatMap((placement, i) =>
    placement.placed.filter(isPartition).map((placed, j) => ({
      at: `${i} ${placed.slot.id}`,
      placement,
      placed,
      facts: report.disks[i]!.partitions.find(({ number }) => number === (placement.gpt ? j + 1 : 0))!.facts,
    })),
  );
}

test('none of these layouts has a stop', () => {
  expect(placements.flatMap((one) => stopsAmong(check(one)).map((stop) => stop.sentence))).toEqual([]);
});

test('each volume mounts, holds what was put in, and can be filled to the last byte that is told', () => {
  let volumes = 0;
  for (const { at, placement, placed, facts } of seen()) {
    const room = roomOf(placed, placement);
    if (!room) continue;
    volumes += 1;
    const free = (room.clusters - room.used) * room.clusterBytes;
    const entry = Number(facts.entry);
    expect([0, room.clusterBytes]).toContain(entry);
    const { mounted, tree, cluster, full, filled, kept } = facts;
    expect({ at, mounted, tree, cluster, free: facts.free, full, filled, kept }).toEqual({
      at,
      mounted: 'yes',
      tree: treeSum(room.tree, store.shelf),
      cluster: String(room.clusterBytes),
      free: String(free),
      full: 'yes',
      filled: String(free - entry),
      kept: 'yes',
    });
  }
  expect(volumes).toBe(cases(4 + 3, 2 * 4 + 6));
});

test('swap works, and nothing old is left where nothing is made', () => {
  for (const { placed, facts } of seen()) {
    const { id } = placed.slot;
    if (id === 'swap')
      expect([facts.TYPE, facts.swapped, facts.unswapped]).toEqual(['swap', String(4 * 1024 - 4), 'yes']);
    if (id === 'left' || id === 'zeros') expect([facts.TYPE, facts.LABEL]).toEqual([undefined, undefined]);
  }
});

test('the kernel log has no complaint', () => {
  const about = report.log.filter((line) =>
    /vd[a-z]|FAT|fat|swap|GPT|I\/O/i.test(line.replace(/default|defaults/g, '')),
  );
  expect(about.length).toBeGreaterThan(0);
  expect(
    about.filter((line) => /error|corrupt|invalid|fail|unmount|bogus|truncat|exceed|beyond|warn|alternate/i.test(line)),
  ).toEqual([]);
});
