/** Filling volumes: large files against one plain copy, many small ones against a folder; and the study of a long list. */
import { MIB } from '@/core/quantity/units';
import { execFileSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { crc32 } from 'node:zlib';
import { type Tree, type TreeFile } from '@/core/filesystems/tree';
import { treeText } from '@/core/filesystems/tree-text';
import type { Layout } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import { writeImage } from '@/files/image-file';
import { contentsFor, storedPath } from '@/files/stored';
import { answerStudy } from '../src/workers/study';
import { OPTIONS, quickly } from './options';
import { median, ratios, type Row } from './row';
import { buildOnServer, peakMemory, serving } from './server';
import path from 'node:path';

const RUNS = 3;

function store(folder: string, sha256: string, bytes: Uint8Array): void {
  const file = storedPath(folder, sha256);
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, bytes);
}

/** Stores files of noise as an upload does: named by their SHA-256, their CRC-32 in the tree. */
function stored(folder: string, files: readonly { path: string; size: number }[]): { tree: string; list: string } {
  const noise = randomBytes(64 * MIB);
  const tree: Tree = files.map(({ path: at, size }, i): TreeFile => {
    const from = (i * 7919) % (noise.length - size);
    const bytes = noise.subarray(from, from + size);
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    store(folder, sha256, bytes);
    return { kind: 'file', path: at, size, sha256, crc32: crc32(bytes).toString(16).padStart(8, '0') };
  });
  const text = Buffer.from(treeText(tree));
  const sha256 = createHash('sha256').update(text).digest('hex');
  store(folder, sha256, text);
  const list = tree.map((one) => `${storedPath(folder, (one as TreeFile).sha256)}\t${one.path}`).join('\n');
  return { tree: sha256, list };
}

function layoutOf(size: string, files: string): Layout {
  return {
    format: 'loess-layout',
    version: 2,
    name: `Filled ${size}`,
    date: '2026-03-01T12:00:00',
    medium: { kind: 'image', capacity: { exact: size }, logicalSector: 512, physicalSector: 512 },
    boots: [],
    table: { kind: 'mbr', signature: '6d617272' },
    slots: [
      {
        id: 'a',
        kind: 'partition',
        name: 'A',
        role: 'data',
        size: 'rest',
        content: { kind: 'fat', variant: 32, volumeId: '7A1D-10CA', files },
      },
    ],
  };
}

function reference(mode: 'one' | 'folder', list: string, target: string): number {
  const milliseconds = Number(
    execFileSync(process.execPath, ['bench/copying.mjs', mode, list, target], { encoding: 'utf8' }),
  );
  rmSync(target, { recursive: true });
  return milliseconds;
}

/** Files of two MiB: 4 GiB of them, or 1 GiB where it is to be quick. */
const LARGE = quickly(500, 2000);
const LARGE_GIB = quickly(1, 4);

/** Large files, built by a server whose memory is watched. */
async function benchLarge(folder: string): Promise<Row[]> {
  const data = mkdtempSync(path.join(folder, 'bench-filling-'));
  const files = Array.from({ length: LARGE }, (_, i) => ({
    path: `recordings/day ${Math.floor(i / 100)}/Gauge recording ${i}.bin`,
    size: Math.floor((LARGE_GIB * 2 ** 30) / LARGE) + (i % 100) - 50,
  }));
  const { tree, list } = stored(path.join(data, 'contents'), files);
  const listFile = path.join(data, 'list');
  writeFileSync(listFile, list);
  execFileSync('sync', ['-f', data]);
  const ours: number[] = [];
  const references: number[] = [];
  return serving(data, async (server) => {
    for (let i = 0; i < RUNS; i++) {
      references.push(reference('one', listFile, path.join(data, 'reference.img')));
      const build = await buildOnServer({ ...layoutOf(`${LARGE_GIB + 1} GiB`, tree), name: `Filled ${i}` });
      ours.push(build.report!.milliseconds);
      rmSync(path.join(data, 'builds', `${build.id}.img`));
    }
    return [
      {
        name: `fill FAT32 with ${LARGE_GIB} GiB in ${LARGE} files / one plain copy`,
        runs: ratios(ours, references),
        limit: 1.15,
        unit: '×',
        detail: `${median(ours).toFixed(0)} ms from first write to rename, compared byte for byte; the copy ${median(references).toFixed(0)} ms; ${RUNS} runs`,
      },
      {
        name: 'server: peak memory while filling',
        runs: [peakMemory(server.pid!)],
        limit: 300,
        unit: 'MB',
        detail: 'VmHWM, children included',
      },
    ];
  });
}

/** 50,000 files of 1 to 16 KiB in 200 folders. */
async function benchSmall(folder: string): Promise<Row[]> {
  const data = mkdtempSync(path.join(folder, 'bench-small-'));
  const files = Array.from({ length: 50_000 }, (_, i) => ({
    path: `folder ${i % 200}/Reading ${i} of the coast.csv`,
    size: 1024 + ((i * 7919) % (15 * 1024)),
  }));
  const contents = path.join(data, 'contents');
  const { tree, list } = stored(contents, files);
  const listFile = path.join(data, 'list');
  writeFileSync(listFile, list);
  execFileSync('sync', ['-f', data]);
  const layout = layoutOf('1 GiB', tree);
  const ours: number[] = [];
  const references: number[] = [];
  for (let i = 0; i < RUNS; i++) {
    references.push(reference('folder', listFile, path.join(data, 'reference')));
    const file = path.join(data, 'build.img');
    const begun = performance.now();
    const placement = place(layout, await contentsFor(contents, layout));
    await writeImage({
      placement,
      path: file,
      fileOf: (sha256) => storedPath(contents, sha256),
      signal: new AbortController().signal,
      onProgress: () => undefined,
    });
    ours.push(performance.now() - begun);
    rmSync(file);
  }
  rmSync(data, { recursive: true });
  return [
    {
      name: 'fill FAT32 with 50,000 small files / writing a folder',
      runs: ratios(ours, references),
      limit: 0.9,
      unit: '×',
      detail: `${median(ours).toFixed(0)} ms with reading the tree and placing; the folder ${median(references).toFixed(0)} ms; both end with a sync; ${RUNS} runs`,
    },
  ];
}

function benchStudy(): Row[] {
  const text = Array.from({ length: 100_000 }, (_, i) => `${(i * 7919) % 5_000_000} Reading ${i}.csv`).join('\n');
  const question = { sectorSize: 512, start: 2048, sectors: 2 ** 25, unit: MIB } as const;
  const times: number[] = [];
  for (let i = 0; i < 9; i++)
    times.push(answerStudy({ question, files: { kind: 'list', text } }, () => performance.now()).milliseconds);
  return [
    {
      name: 'study of a FAT slot with a list of 100,000 sizes',
      runs: times,
      limit: 100,
      unit: 'ms',
      detail: `the list read, all variants and clusters; in a web worker of the page; median of ${times.length}`,
    },
  ];
}

export async function benchFilling(folder: string): Promise<Row[]> {
  return [...benchStudy(), ...(OPTIONS.quick ? [] : await benchSmall(folder)), ...(await benchLarge(folder))];
}
