/**
 * Ext file systems: large empty ones, the smallest slot for many files, and one that is filled from a tar of a
 * system beside the time that the system's own archiver takes to unpack it.
 */
import { createWriteStream, mkdirSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import { pack } from 'tar-stream';
import { leastExt } from '@/core/filesystems/ext/least';
import { NO_CONTENTS } from '@/core/filesystems/supplied';
import type { Tree } from '@/core/filesystems/tree';
import type { Layout } from '@/core/layout/document';
import { writeLayout } from '@/core/layout/validate';
import { place } from '@/core/placement/place';
import { writeImage } from '@/files/image-file';
import { median, ratios, type Row } from './row';
import { sendArchive, unpackSeconds } from './archiving';
import { buildOnServer, peakMemory, serving } from './server';
import { watched } from './watched';

const FILES = 60_000;
const TAR_BYTES = 2 * 2 ** 30;
const RUNS = 3;
const MB = 1_000_000;

const EXT = { kind: 'ext', version: 'ext4', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', label: 'root' } as const;

function layoutOf(exact: string, content: object): Layout {
  return {
    format: 'loess-layout',
    version: 2,
    name: 'Ext',
    date: '2026-03-01T12:00:00',
    medium: { kind: 'image', capacity: { exact }, logicalSector: 512, physicalSector: 512 },
    boots: [],
    table: { kind: 'gpt', diskId: '6d617272-616d-4c0a-8d05-7469646573aa' },
    slots: [
      { id: 'root', kind: 'partition', name: 'Root', role: 'data', size: 'rest', content: { ...EXT, ...content } },
    ],
  };
}

async function emptyRow(folder: string, exact: string, limit: number): Promise<Row> {
  const times: number[] = [];
  let blocks = 0;
  for (let i = 0; i < RUNS; i++) {
    const file = path.join(folder, 'empty.img');
    const started = performance.now();
    await writeImage({
      placement: place(layoutOf(exact, {}), NO_CONTENTS),
      path: file,
      fileOf: (sha256) => sha256,
      signal: new AbortController().signal,
      onProgress: () => undefined,
    });
    times.push((performance.now() - started) / 1000);
    blocks = statSync(file).blocks;
    rmSync(file);
  }
  return {
    name: `an empty ext4 of ${exact}, placed and written`,
    runs: times,
    limit,
    unit: 's',
    detail: `${((blocks * 512) / MB).toFixed(1)} MB written, the rest are holes; ${RUNS} runs`,
  };
}

function manyFiles(): Tree {
  return Array.from({ length: FILES }, (_, i) => ({
    kind: 'file',
    path: `usr/share/d${i % 300}/file ${i} of the system`,
    size: (i * 7919) % 70_000,
    sha256: '1'.repeat(64),
  }));
}

function leastRow(): Row {
  const site = {
    start: 2048,
    sectorSize: 512,
    unit: 4096,
    wholeMedium: false,
    isEsp: false,
    isSystem: true,
    pageSize: 4096,
    date: '2026-03-01T12:00:00',
  } as const;
  const times = Array.from({ length: 5 }, () => {
    const tree = manyFiles();
    const started = performance.now();
    leastExt(EXT, site, tree);
    return performance.now() - started;
  });
  return {
    name: 'smallest slot for 60,000 files',
    runs: times,
    limit: 300,
    unit: 'ms',
    detail: 'nothing known before; in a worker of its own in the designer',
  };
}

async function makeTar(file: string): Promise<void> {
  const tar = pack();
  const written = pipeline(tar, createWriteStream(file));
  const mtime = new Date('2026-03-01T12:00:00Z');
  const mean = TAR_BYTES / FILES - 512;
  for (let i = 0; i < FILES; i++) {
    const size = Math.floor(mean * (0.2 + (1.6 * ((i * 7919) % 1000)) / 1000));
    const name = `usr/share/d${String(i % 300).padStart(3, '0')}/file-${String(i).padStart(6, '0')}`;
    const content = Buffer.alloc(size, `reading ${i} of the coast; `);
    if (!tar.entry({ name, mtime, mode: i % 10 === 0 ? 0o755 : 0o644, uid: i % 7 }, content))
      await new Promise((resolve) => tar.once('drain', resolve));
  }
  tar.finalize();
  await written;
}

async function fillRows(folder: string): Promise<Row[]> {
  const archive = path.join(folder, 'root.tar');
  await makeTar(archive);
  const data = path.join(folder, 'data');
  mkdirSync(data);
  const ours: number[] = [];
  // All of them first: a connection that idles meanwhile is closed.
  const references = Array.from({ length: RUNS }, () => unpackSeconds(archive, path.join(folder, 'unpacked')));
  const rows = await serving(data, async (server): Promise<Row[]> => {
    const { view } = await sendArchive(archive, '?keepsAll=yes');
    for (let i = 0; i < RUNS; i++) {
      const build = await buildOnServer({ ...layoutOf('4 GiB', { files: view.sha256! }), name: `Filled ${i}` });
      ours.push(build.report!.milliseconds / 1000);
      rmSync(path.join(data, 'builds', `${build.id}.img`));
    }
    return [
      {
        name: 'fill ext4 from a tar of 2 GiB in 60,000 files / tar -x',
        runs: ratios(ours, references),
        limit: 1.5,
        unit: '×',
        detail: `${median(ours).toFixed(1)} s from first write to rename, compared byte for byte; unpacked and synced in ${median(references).toFixed(1)} s; ${RUNS} runs`,
      },
      {
        name: 'server: peak memory while taking in and filling',
        runs: [peakMemory(server.pid!)],
        limit: 400,
        unit: 'MB',
        detail: 'VmHWM, children included',
      },
    ];
  });
  const document = path.join(folder, 'card.json');
  writeFileSync(document, writeLayout(layoutOf('4 GiB', { filesFrom: 'root.tar', times: 'of the files' })));
  const memory = (await watched(['build', document, '--into', path.join(folder, 'card.img')])).memory;
  return [
    ...rows,
    {
      name: 'terminal: peak memory while filling',
      runs: [memory],
      limit: 300,
      unit: 'MB',
      detail: 'VmHWM, children included',
    },
  ];
}

export async function benchExt(folder: string): Promise<Row[]> {
  const place = mkdtempSync(path.join(folder, 'bench-ext-'));
  try {
    return [await emptyRow(place, '2 TB', 1), await emptyRow(place, '8 TB', 3), leastRow(), ...(await fillRows(place))];
  } finally {
    rmSync(place, { recursive: true, force: true });
  }
}
