/** Reading an ext4 of 16 GiB with 200,000 files: opened to be browsed, a folder of as many names listed, and checked as a whole. */
import { mkdtempSync, rmSync } from 'node:fs';
import { open } from 'node:fs/promises';
import path from 'node:path';
import { Shelf } from '@tests/filled';
import type { BlockSource } from '@/core/bytes/blocks';
import { checkSurvey } from '@/core/findings/survey/check';
import { minimaOf, repackable } from '@/core/filesystems/ext/repack/repack';
import { openVolume } from '@/core/filesystems/readers';
import type { TreeEntry } from '@/core/filesystems/tree';
import { GIB, MIB } from '@/core/quantity/units';
import { surveyMedium } from '@/core/survey/survey';
import { fileSource } from '@/files/file-source';
import { layVolume } from './laid';
import type { Row } from './row';
import { watched } from './watched';

const SIZE = 16 * GIB;
const FILES = 200_000;
const FOLDERS = 400;
const RUNS = 5;

/** Writes the volume: half of its files in one folder, the others in many. */
function made(file: string): void {
  const shelf = new Shelf();
  const one = shelf.file('a reading', 3000);
  const tree = Array.from({ length: FILES }, (_, i): TreeEntry => {
    const folder = i % 2 === 0 ? 'wide' : `station ${i % FOLDERS}`;
    return { ...one, path: `${folder}/reading ${i} of the coast` };
  });
  layVolume(file, { version: 'ext4', bytes: SIZE }, tree, shelf);
}

/** A source that counts what is read of it. */
class Counting implements BlockSource {
  readonly size = SIZE;
  bytes = 0;

  constructor(private readonly source: BlockSource) {}

  read(offset: number, length: number, into?: Uint8Array): Promise<Uint8Array> {
    this.bytes += length;
    return this.source.read(offset, length, into);
  }
}

/** How long it takes to say how small it can be, by either way to number its inodes. */
async function minimumOf(file: string): Promise<{ times: number[]; blocks: number }> {
  const handle = await open(file, 'r');
  try {
    const times: number[] = [];
    let blocks = 0;
    for (let i = 0; i < RUNS; i++) {
      const started = performance.now();
      const volume = await repackable(fileSource(handle, SIZE), 0);
      if (!volume.ok) throw new Error(volume.error);
      const { renumbered, block } = minimaOf(volume.value);
      times.push(performance.now() - started);
      blocks = renumbered! / block;
    }
    return { times, blocks };
  } finally {
    await handle.close();
  }
}

export async function benchExtReading(folder: string): Promise<Row[]> {
  const scratch = mkdtempSync(path.join(folder, 'bench-'));
  try {
    const file = path.join(scratch, 'coast.img');
    made(file);
    const handle = await open(file, 'r');
    const times: number[] = [];
    let read = 0;
    let entries = 0;
    for (let i = 0; i < RUNS; i++) {
      const source = new Counting(fileSource(handle, SIZE));
      const started = performance.now();
      checkSurvey(await surveyMedium(source, { sectorSize: 512 }));
      const volume = (await openVolume(source, 0))!;
      entries = (await volume.list()).entries.length;
      times.push(performance.now() - started);
      read = source.bytes;
    }
    const listed: number[] = [];
    let names = 0;
    for (let i = 0; i < 3; i++) {
      const started = performance.now();
      const volume = (await openVolume(fileSource(handle, SIZE), 0))!;
      const wide = (await volume.list()).entries.find(({ name }) => name === 'wide')!;
      names = (await volume.list(wide)).entries.length;
      listed.push(performance.now() - started);
    }
    await handle.close();
    const minima = await minimumOf(file);
    const checks = [await watched(['examine', file]), await watched(['examine', file])];
    const detail = `16 GiB, ${FILES} files`;
    return [
      {
        name: 'ext4 of 200,000 files: surveyed and opened to browse',
        runs: times,
        limit: 500,
        unit: 'ms',
        detail: `${entries} entries in its root`,
      },
      { name: 'ext4 of 200,000 files: read for that', runs: [read / MIB], limit: 32, unit: 'MiB', detail },
      {
        name: 'ext4: a folder of 100,000 names listed',
        runs: listed,
        limit: 5000,
        unit: 'ms',
        detail: `${names} names`,
      },
      {
        name: 'ext4 of 200,000 files: its minimum',
        runs: minima.times,
        limit: 2000,
        unit: 'ms',
        detail: `${minima.blocks} blocks`,
      },
      {
        name: 'ext4 of 200,000 files: the whole check',
        runs: checks.map((one) => one.time),
        limit: 30_000,
        unit: 'ms',
        detail,
      },
      {
        name: 'ext4 of 200,000 files: peak memory of that',
        runs: checks.map((one) => one.memory),
        of: 'the largest',
        limit: 500,
        unit: 'MB',
        detail,
      },
    ];
  } finally {
    rmSync(scratch, { recursive: true, force: true });
  }
}
