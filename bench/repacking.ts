/** Repacking an ext4 of 16 GiB of which 3 GiB are used, beside a copy of one file of 3 GiB; both end with a sync. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import path from 'node:path';
import { Shelf } from '@tests/filled';
import type { TreeEntry } from '@/core/filesystems/tree';
import { GIB, KIB, MIB } from '@/core/quantity/units';
import { layVolume } from './laid';
import type { Row } from './row';
import { watched } from './watched';

const SIZE = 16 * GIB;
const USED = 3 * GIB;
const RUNS = 5;
/** What is in it: some large files, and many small ones. */
const KINDS = [
  { bytes: 96 * MIB, count: 16 },
  { bytes: 2 * MIB, count: 400 },
  { bytes: 60 * KIB, count: 12_000 },
  { bytes: 3000, count: 8000 },
] as const;

function made(file: string): void {
  const shelf = new Shelf();
  const tree = KINDS.flatMap(({ bytes, count }, kind) => {
    const one = shelf.file(`content ${kind}`, bytes);
    return Array.from({ length: count }, (_, i): TreeEntry => ({ ...one, path: `station ${i % 200}/${kind}-${i}` }));
  });
  layVolume(file, { version: 'ext4', bytes: SIZE }, tree, shelf);
}

/** A file of random bytes, as long as what is used of the volume. */
function random(file: string): void {
  execFileSync('sh', ['-c', `head -c ${USED} /dev/urandom > "$1"`, 'sh', file]);
}

/** Milliseconds of a copy by the program of the platform, with a sync. */
function copied(from: string, to: string): number {
  const started = performance.now();
  execFileSync('sh', ['-c', 'cp "$1" "$2" && sync "$2"', 'sh', from, to]);
  const time = performance.now() - started;
  rmSync(to);
  return time;
}

export async function benchRepacking(folder: string): Promise<Row[]> {
  const scratch = mkdtempSync(path.join(folder, 'bench-'));
  try {
    const [image, one, into] = ['coast.img', 'one.bin', 'into.img'].map((name) => path.join(scratch, name)) as [
      string,
      string,
      string,
    ];
    made(image);
    random(one);
    execFileSync('sync');
    const ratios: number[] = [];
    const memories: number[] = [];
    let [time, copy] = [0, 0];
    for (let i = 0; i < RUNS; i++) {
      copy = copied(one, path.join(scratch, 'copy.bin'));
      const run = await watched(['repack', image, '--into', into]);
      rmSync(into);
      ({ time } = run);
      memories.push(run.memory);
      ratios.push(time / copy);
    }
    const detail = `${(time / 1000).toFixed(1)} s, checked first and compared; the copy ${(copy / 1000).toFixed(1)} s`;
    return [
      {
        name: 'repacking 3 GiB of 16, beside a copy of 3 GiB',
        runs: ratios,
        limit: 1.3,
        unit: '×',
        detail,
      },
      {
        name: 'repacking: peak memory of the terminal',
        runs: memories,
        of: 'the largest',
        limit: 400,
        unit: 'MB',
        detail: 'largest run',
      },
    ];
  } finally {
    rmSync(scratch, { recursive: true, force: true });
  }
}
