/**
 * `npm run fuzz:readers [mutants] [seed]`: mutants of every kind of medium and archive, on all cores. What came where nothing
 * of the program came before is kept, and changed further. Each must end soon, within the medium, and be told.
 */
import { spawn } from 'node:child_process';
import { closeSync, ftruncateSync, mkdtempSync, openSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import path from 'node:path';
import { checkWhole } from '@/core/filesystems/ext/check/whole';
import { pathTrouble } from '@/core/filesystems/tree';
import { type Keeper, unpackFile } from '@/files/archives';
import { SupplyError } from '@/files/errors';
import { Sums, type UnpackOptions } from '@/files/gathering';
import { tarOf, zipOf } from './archives';
import { Coverage } from './coverage';
import { bases, type Draw, generator, lookAt, mutant, surveyed } from './fuzz';
import type { FoundImage } from './found-image';
import { HOSTILE } from './hostile';
import { HOSTILE_EXT } from './hostile-ext';
import { walkVolume } from './walked';

/** Mutants that are kept to be changed further; the oldest go. */
const CORPUS = 2000;
/** One in so many is kept in a layout and changed, is an archive, is walked. */
const [KEPT_TOO, ARCHIVE, WALKED] = [64, 10, 3];
/** So many are counted at once, which takes longer than most of them: what came with something new is kept too. */
const BATCH = 6;
/** What walking or unpacking one may take. */
const MOST_TIME = 2000;
const LIMITS = { entries: 300, contents: 10, bytes: 2 ** 18 };

/** Walks every volume of a mutant, reads a little of each file, and checks all of what is ext. */
async function walked(image: FoundImage, starts: readonly number[]): Promise<void> {
  for (const base of starts.filter((start) => start < image.size).slice(0, 3)) {
    await walkVolume(image, base, LIMITS);
    await checkWhole(image, base, image.size - base);
  }
}

/** Takes contents and keeps nothing of them. */
class Nowhere implements Keeper {
  async add(body: AsyncIterable<Uint8Array>) {
    const sums = new Sums();
    for await (const chunk of body) sums.add(chunk);
    return sums.kept;
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
    const { entries } = await unpackFile(file, bytes.length, new Nowhere(), options);
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
  /** Milliseconds of the processors: of what others do on the machine nothing is counted. */
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

/** Mutants of one process: those of its number among all. */
async function work(count: number, seed: number, of: number, among: number): Promise<void> {
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
    const choose = generator(seed + n * 7919);
    choose(2);
    const isRecent = corpus.length > kept && choose(2) === 0;
    const base = corpus[isRecent ? kept + choose(corpus.length - kept) : choose(corpus.length)]!;
    const name = `mutant ${n} of seed ${seed}`;
    const once = () => tried(stock, base, generator(seed + n * 7919 + 1), name);
    const { time, image, archive } = await once();
    // What was in the way the first time, a collection of what others left for example, is not the second time.
    if (time > MOST_TIME) {
      const again = Math.min(time, (await once()).time);
      if (again > MOST_TIME)
        slow.push(`${name} took ${Math.round(again)} ms${image ? `: ${dumped(image, name)}` : ''}`);
    }
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
      console.log(
        `process ${of + 1}: ${n} of ${count}; ${corpus.length - kept} kept, ${blocks} blocks; ${(process.memoryUsage().rss / 2 ** 20).toFixed(0)} MiB`,
      );
  }
  coverage.stop();
  if (slow.length > 0) throw new Error(slow.join('\n'));
  rmSync(folder, { recursive: true, force: true });
}

/** All processes; ends with the number of the first that fails. */
async function all(count: number, seed: number): Promise<number> {
  const among = availableParallelism();
  const started = performance.now();
  const ends = Array.from({ length: among }, (_, of) => {
    const args = ['--import', 'tsx', process.argv[1]!, String(count), String(seed), String(of), String(among)];
    const child = spawn(process.execPath, args, { stdio: 'inherit' });
    return new Promise<number>((resolve) => child.on('exit', (code) => resolve(code ?? 1)));
  });
  const failed = (await Promise.all(ends)).find((code) => code !== 0) ?? 0;
  console.log(`${count} mutants in ${Math.round((performance.now() - started) / 1000)} s on ${among} cores`);
  return failed;
}

const [count = 300_000, seed = Date.now() % 2 ** 31, of, among] = process.argv.slice(2).map(Number);
if (of === undefined || among === undefined) void all(count, seed).then((code) => process.exit(code));
else
  work(count, seed, of, among).catch((error: Error) => {
    console.error(error.message);
    process.exit(1);
  });
