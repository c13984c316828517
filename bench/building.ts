/** Building a 64 GB image with two FAT32 volumes, against a process that writes the same blocks. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { compose } from '@/core/compose/compose';
import type { Layout } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';
import { writeImage } from '@/files/image-file';
import { median, type Row } from './row';

const BLOCK = 4096;
const RUNS = 7;

const LAYOUT: Layout = {
  format: 'loess-layout',
  version: 2,
  name: 'Two volumes',
  date: '2026-03-01T12:00:00',
  medium: { kind: 'image', capacity: { exact: '64 GB' }, logicalSector: 512, physicalSector: 512 },
  boots: [],
  table: { kind: 'mbr', signature: '6d617272' },
  slots: ['A', 'B'].map((name) => ({
    id: name.toLowerCase(),
    kind: 'partition',
    name,
    role: 'data',
    size: 'rest',
    content: { kind: 'fat', variant: 32, label: `GAUGE_${name}`, volumeId: `7A1D-10C${name}` },
  })),
};

/** The 4 KiB blocks of the image that hold a byte other than zero, by their offset. */
function filledBlocks(placement: Placement): Map<number, Uint8Array> {
  const blocks = new Map<number, Uint8Array>();
  for (const { extent } of compose(placement)) {
    if (!('bytes' in extent)) continue;
    extent.bytes.forEach((byte, i) => {
      if (byte === 0) return;
      const at = Math.floor((extent.offset + i) / BLOCK) * BLOCK;
      const block = blocks.get(at) ?? new Uint8Array(BLOCK);
      block[extent.offset + i - at] = byte;
      blocks.set(at, block);
    });
  }
  return blocks;
}

async function buildOnce(placement: Placement, file: string) {
  const report = await writeImage({
    placement,
    path: file,
    signal: new AbortController().signal,
    onProgress: () => undefined,
  });
  const allocated = statSync(file).blocks * 512;
  rmSync(file);
  return { milliseconds: report.milliseconds, written: report.writtenBytes, allocated };
}

/** One FAT32 over 2 TB: a FAT of 244 MiB, nearly all of it zeros. */
const LARGE: Layout = {
  ...LAYOUT,
  name: 'Two terabytes',
  medium: { ...LAYOUT.medium, capacity: { exact: '2 TB' } },
  slots: [{ ...LAYOUT.slots[0]!, size: 'rest' } as Layout['slots'][number]],
};

const LARGE_EXFAT: Layout = {
  ...LARGE,
  name: 'Two terabytes of exFAT',
  slots: [
    {
      id: 'a',
      kind: 'partition',
      name: 'A',
      role: 'data',
      size: 'rest',
      content: { kind: 'exfat', label: 'Tide vault', volumeId: '7A1D-10CA' },
    },
  ],
};

export async function benchBuilding(folder: string): Promise<Row[]> {
  return [
    ...(await benchImage(folder, 'build 64 GB', LAYOUT, (reference) => Math.max(100, 2 * reference))),
    ...(await benchImage(folder, 'build 2 TB exFAT', LARGE_EXFAT, (reference) => Math.max(150, 1.2 * reference))),
    ...(await benchImage(folder, 'build 2 TB FAT32', LARGE, (reference) => Math.max(150, 1.2 * reference))),
  ];
}

async function benchImage(folder: string, name: string, layout: Layout, limit: (reference: number) => number) {
  const place64 = place(layout);
  const blocks = filledBlocks(place64);
  const scratch = mkdtempSync(path.join(folder, 'bench-'));
  const places = path.join(scratch, 'places.json');
  const data = path.join(scratch, 'data');
  writeFileSync(places, JSON.stringify([...blocks.keys()]));
  writeFileSync(data, Buffer.concat([...blocks.values()]));
  const builds = [];
  const references: number[] = [];
  for (let i = 0; i < RUNS; i++) {
    builds.push(await buildOnce(place64, path.join(scratch, 'build.img')));
    const file = path.join(scratch, 'reference.img');
    const args = ['bench/reference.mjs', file, String(place64.medium.capacity), places, data];
    references.push(Number(execFileSync(process.execPath, args, { encoding: 'utf8' })));
    rmSync(file);
  }
  rmSync(scratch, { recursive: true });
  const least = blocks.size * BLOCK;
  const { written, allocated } = builds[0]!;
  const reference = median(references);
  return [
    {
      name: `${name}: bytes handed to write / non-zero 4 KiB blocks`,
      runs: builds.map(({ written }) => written / least),
      limit: 1.05,
      unit: '×',
      detail: `${written} bytes, ${blocks.size} blocks of 4 KiB`,
    },
    {
      name: `${name}: allocated beyond the non-zero blocks`,
      runs: builds.map((one) => (one.allocated - least) / 1024),
      limit: 64,
      unit: 'KiB',
      detail: `${allocated / 1024} KiB allocated`,
    },
    {
      name: `${name}: first write to rename, read-back included`,
      runs: builds.map((one) => one.milliseconds),
      limit: limit(reference),
      unit: 'ms',
      detail: `one process with one fsync ${reference.toFixed(1)} ms; median of ${RUNS}`,
    },
  ];
}
