/**
 * fuzz-readers.ts MUTANTS: mutants of every kind of medium and archive, on all cores, with the seed of the run. A mutant that
 * reaches code that no other reached is kept, and changed further. Each must take few steps, stay within the medium, and be
 * reported.
 */
/* eslint tests/no-clock: 'off' -- processor time only chooses the mutants whose steps are counted */
import './properties';
import { spawn } from 'node:child_process';
import { closeSync, ftruncateSync, mkdtempSync, openSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import path from 'node:path';
import { checkWhole } from '@/core/filesystems/ext/check/whole';
import { pathTrouble } from '@/core/filesystems/tree';
import { unpackFile } from '@/files/archives';
import { SupplyError } from '@/files/errors';
import type { UnpackOptions } from '@/files/gathering';
import { tarOf, zipOf } from './archives';
import { Coverage } from './coverage';
import { bases, type Draw, lookAt, mutant, surveyed } from './fuzz';
import type { FoundImage } from './found-image';
import { HOSTILE } from './hostile';
import { HOSTILE_EXT } from './hostile-ext';
import { NOWHERE } from './nowhere';
import { numbersFrom, SEED } from './tier';
import { walkVolume } from './walked';

/** Mutants that are kept to be changed further; the oldest go. */
const CORPUS = 2000;
/** One in so many is kept in a layout and changed, is an archive, is walked. */
const [KEPT_TOO, ARCHIVE, WALKED] = [64, 10, 3];
/** So many are counted at once, which takes longer than most of them: what came with something new is kept too. */
const BATCH = 6;
/** Milliseconds of processor time after which the steps of a mutant are counted, and the most steps that it may take. */
const SUSPICIOUS = 500;
const MOST_STEPS = 40_000_000;
const LIMITS = { entries: 300, contents: 10, bytes: 2 ** 18 };

/** Walks every volume of a mutant, reads a little of each file, and checks all of what is ext. */
async function walked(image: FoundImage, starts: readonly number[]): Promise<void> {
  for (const base of starts.filter((start) => start < image.size).slice(0, 3)) {
    await walkVolume(image, base, LIMITS);
    await checkWhole(image, base, image.size - base);
  }
}

async function archives(): Promise<Buffer[]> {
  const files = { 'EFI/BOOT/BOOTX64.EFI': 'loader', 'tables/ebb.csv': 'ü'.repeat(3000), empty: '' };
  const members = Object.entries(files).map(([name, content]) => ({ name, content }));
  return [
    await zipOf(files),
    await tarOf(members),
    await tarOf([
      { name: 'a', type: 'directory' },
      { name: 'a/link', type: 'symlink', linkname: '../b' },
      { name: `${'long/'.repeat(30)}name`, content: 'x' },
      ...members,
    ]),
  ];
}

function changedArchive(archive: Buffer, draw: Draw): Buffer {
  const bytes = Buffer.from(archive);
  for (let i = draw(10) + 1; i > 0; i--)
    bytes[draw(bytes.length)] = draw(3) === 0 ? [0, 0xff, 0x2f, 0x2e][draw(4)]! : draw(256);
  return draw(6) === 0 ? bytes.subarray(0, draw(bytes.length)) : bytes;
}

/** Unpacks an archive into nowhere: no entry may have a path that leads elsewhere. */
async function unpacked(bytes: Buffer, file: string, leaveOut: boolean): Promise<void> {
  writeFileSync(file, bytes);
  try {
    const options: UnpackOptions = { leaveOut };
    const { entries } = await unpackFile(file, bytes.length, NOWHERE, options);
    for (const { path: at } of entries) if (pathTrouble(at)) throw new Error(`an archive brought “${at}”`);
  } catch (error) {
    if (!(error instanceof SupplyError)) throw error;
  }
}

/** Keeps what broke something as a sparse file, to look into it. */
function dumped(image: FoundImage, name: string): string {
  const file = path.join(tmpdir(), `loess-${name.replaceAll(' ', '-')}.img`);
  const out = openSync(file, 'w');
  for (const page of image.filled)
    if (page * 4096 < image.size)
      writeSync(out, image.bytes(page * 4096, Math.min(4096, image.size - page * 4096)), 0, undefined, page * 4096);
  ftruncateSync(out, image.size);
  closeSync(out);
  return file;
}

/** What mutants are made of. */
interface Stock {
  /** Media: those that it began with, and behind them those that are kept. */
  readonly corpus: FoundImage[];
  readonly zips: Buffer[];
  /** Where archives are laid to be unpacked. */
  readonly folder: string;
}

/** What one mutant came to. */
interface Tried {
  /** Milliseconds of processor time. */
  readonly time: number;
  readonly image?: FoundImage;
  readonly archive?: Buffer;
}

/** Makes a mutant of a base and looks at it, with the same draws each time; `name` is for whoever looks into it. */
async function tried({ zips, folder }: Stock, base: FoundImage, draw: Draw, name: string): Promise<Tried> {
  const started = process.cpuUsage();
  const time = () => {
    const { user, system } = process.cpuUsage(started);
    return (user + system) / 1000;
  };
  let image: FoundImage | undefined;
  try {
    if (draw(ARCHIVE) === 0) {
      const archive = changedArchive(zips[draw(zips.length)]!, draw);
      await unpacked(archive, path.join(folder, 'archive'), draw(2) === 0);
      return { time: time(), archive };
    }
    image = mutant(base, draw);
    if (draw(KEPT_TOO) === 0) await lookAt(image, draw);
    else {
      const { partitions, sectorSize } = await surveyed(image, draw);
      if (draw(WALKED) === 0)
        await walked(
          image,
          partitions.map(({ start }) => start * sectorSize),
        );
    }
    return { time: time(), image };
  } catch (error) {
    const kept = image ? `, kept as ${dumped(image, name)}` : '';
    throw new Error(`${name}${kept}: ${(error as Error).stack ?? String(error)}`, { cause: error });
  }
}

/** Mutants of one process: those of its number among all. Resolves with a line for each that takes too many steps. */
async function work(count: number, of: number, among: number): Promise<string[]> {
  const coverage = new Coverage();
  await coverage.start();
  const folder = mkdtempSync(path.join(tmpdir(), 'loess-fuzz-'));
  const hostile = await Promise.all([...HOSTILE, ...HOSTILE_EXT].map(([, make]) => make()));
  const corpus = [...(await bases()), ...hostile.filter(({ size }) => size <= 70 * 2 ** 20)];
  const kept = corpus.length;
  const stock: Stock = { corpus, zips: await archives(), folder };
  let blocks = await coverage.fresh();
  const slow: string[] = [];
  const batch: FoundImage[] = [];
  for (let n = of; n < count; n += among) {
    const choose = numbersFrom(SEED + n * 7919);
    choose(2);
    const isRecent = corpus.length > kept && choose(2) === 0;
    const base = corpus[isRecent ? kept + choose(corpus.length - kept) : choose(corpus.length)]!;
    const name = `mutant ${n} of seed ${SEED}`;
    const once = () => tried(stock, base, numbersFrom(SEED + n * 7919 + 1), name);
    const { time, image, archive } = await once();
    const steps = time > SUSPICIOUS ? await coverage.stepsOf(once) : 0;
    if (steps > MOST_STEPS) slow.push(`${name} takes ${steps} steps${image ? `: ${dumped(image, name)}` : ''}`);
    if (image) batch.push(image);
    if (archive && (await coverage.fresh()) > 0) stock.zips.push(archive);
    if (batch.length === BATCH) {
      const fresh = await coverage.fresh();
      blocks += fresh;
      if (fresh > 0) corpus.push(...batch);
      batch.length = 0;
      if (corpus.length > CORPUS) corpus.splice(kept, corpus.length - CORPUS);
    }
    if ((n - of) % (among * 10_000) === 0)
      console.log(`process ${of + 1}: ${n} of ${count}; ${corpus.length - kept} kept, ${blocks} blocks`);
  }
  coverage.stop();
  rmSync(folder, { recursive: true, force: true });
  return slow;
}

/** All processes; resolves with the number of those that fail. */
async function all(count: number): Promise<number> {
  const among = availableParallelism();
  console.log(`${count} mutants with seed ${SEED}, on ${among} cores`);
  const ends = Array.from({ length: among }, (_, of) => {
    const args = [...process.execArgv, process.argv[1]!, String(count), String(of), String(among)];
    const child = spawn(process.execPath, args, { stdio: 'inherit' });
    return new Promise<number>((resolve) => child.on('exit', (code) => resolve(code === 0 ? 0 : 1)));
  });
  const failed = (await Promise.all(ends)).reduce((sum, one) => sum + one, 0);
  console.log(`${count - failed} passed, ${failed} failed`);
  return failed;
}

const [count = 300_000, of, among] = process.argv.slice(2).map(Number);
const running =
  of === undefined || among === undefined
    ? all(count)
    : work(count, of, among).then((slow) => {
        for (const line of slow) console.error(line);
        return slow.length;
      });
running.then(
  (failed) => process.exit(failed === 0 ? 0 : 1),
  (error: Error) => {
    console.error(error.message);
    process.exit(1);
  },
);
