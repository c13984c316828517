/**
 * An archive of 200,000 small files sent to the server, beside the time that the system's own archiver
 * takes to unpack it, and how long other requests wait meanwhile.
 */
import { createWriteStream, mkdtempSync, rmSync } from 'node:fs';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import { pack } from 'tar-stream';
import { sendArchive, unpackSeconds } from './archiving';
import { BASE, serving } from './server';
import { type Row } from './row';

const FILES = 200_000;
const FILES_OF_A_FOLDER = 1000;

async function makeArchive(file: string): Promise<void> {
  const tar = pack();
  const written = pipeline(tar, createWriteStream(file));
  const mtime = new Date('2026-03-01T12:00:00Z');
  for (let i = 0; i < FILES; i++) {
    const folder = String(Math.floor(i / FILES_OF_A_FOLDER)).padStart(3, '0');
    const name = `logs/${folder}/tide-${String(i).padStart(6, '0')}.txt`;
    if (!tar.entry({ name, mtime }, `water level ${i}\n`.repeat(1 + (i % 20))))
      await new Promise((resolve) => tar.once('drain', resolve));
  }
  tar.finalize();
  await written;
}

/** How long each of many requests waits, one after another, until `done` says so. */
async function waits(done: () => boolean): Promise<number[]> {
  const times: number[] = [];
  while (!done()) {
    const started = performance.now();
    await (await fetch(`${BASE}/api/layouts/gauge-logger`)).text();
    times.push(performance.now() - started);
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  return times;
}

export async function benchArchives(folder: string): Promise<Row[]> {
  const place = mkdtempSync(path.join(folder, 'bench-archive-'));
  const archive = path.join(place, 'logs.tar');
  try {
    await makeArchive(archive);
    // The best of three.
    const alone = Math.min(...[1, 2, 3].map(() => unpackSeconds(archive, path.join(place, 'unpacked'))));
    return await serving(path.join(place, 'data'), async () => {
      const started = performance.now();
      let isDone = false;
      const upload = sendArchive(archive).finally(() => (isDone = true));
      const times = await waits(() => isDone);
      const { status, view } = await upload;
      const seconds = (performance.now() - started) / 1000;
      if (status !== 201 || view.entries.length !== FILES) throw new Error(`the archive was answered ${status}`);
      const detail = `${FILES} files, ${seconds.toFixed(1)} s, unpacked by tar in ${alone.toFixed(1)} s`;
      return [
        {
          name: 'archive of 200,000 files taken in / unpacked by tar',
          runs: [seconds / alone],
          limit: 2,
          unit: '×',
          detail,
        },
        {
          name: 'other requests meanwhile, median',
          runs: times,
          limit: 100,
          unit: 'ms',
          detail: `${times.length} requests, slowest ${Math.max(...times).toFixed(0)} ms`,
        },
      ];
    });
  } finally {
    rmSync(place, { recursive: true, force: true });
  }
}
