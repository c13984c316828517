/**
 * A data folder is worked on, and killed, cut from its power, or met with every
 * fault of a disk at every call; after each, everything acknowledged must be there, and nothing torn.
 *
 * Argument: rounds in all (1000). The seed is that of the test run. Children of this program get an order and a folder.
 */
import { spawn } from 'node:child_process';
import { appendFileSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { SEED } from '@tests/tier';
import { faultsOf } from './verify';
import { type Acknowledged, workOn } from './work';
import { compileDisk, diskEnvironment, mark } from './disk';
import { failEverywhere } from './faults';
import { type Beginning, beginningOf, Disk, readLog } from './log';
import { prepareOlder } from './older';

/** Random numbers from 0 to 1 that follow from a seed (mulberry32). */
function randomFrom(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

const program = process.argv[1]!;

/** Runs this program as a child with an order; resolves with how it ended. */
function child(args: readonly string[], env: NodeJS.ProcessEnv, killAfter?: number): Promise<string> {
  return new Promise((resolve) => {
    const one = spawn(process.execPath, [program, ...args], { env, stdio: ['ignore', 'inherit', 'pipe'] });
    let said = '';
    one.stderr.on('data', (text: Buffer) => (said += String(text)));
    // eslint-disable-next-line tests/no-sleep -- any moment is a good one to be killed at
    const timer = killAfter === undefined ? undefined : setTimeout(() => one.kill('SIGKILL'), killAfter);
    one.once('exit', (code) => {
      clearTimeout(timer);
      resolve(code === 0 || code === null ? '' : `ended with ${code}: ${said.slice(-2000)}`);
    });
  });
}

class Report {
  rounds = 0;
  /** Rounds in which something was wrong. */
  wrong = 0;
  readonly faults: string[] = [];

  add(what: string, found: readonly string[]): void {
    this.rounds += 1;
    if (found.length > 0) this.wrong += 1;
    for (const one of found) {
      this.faults.push(`${what}: ${one}`);
      console.log(`WRONG  ${what}: ${one}`);
    }
  }
}

const acknowledgedIn = (text: string): Acknowledged[] =>
  text
    .split('\n')
    .filter((line) => line.endsWith('}'))
    .map((line) => JSON.parse(line) as Acknowledged);

/** Share of the faults that stand in what is cut from power. */
const FAULTS_CUT = 0.04;

/** So often one folder is worked on by a server that is killed. */
const KILLS_OF_ONE = 8;

/** Kills a worker at random moments, on one folder again and again. */
async function killing(folder: string, rounds: number, random: () => number, report: Report): Promise<void> {
  for (let i = 0; i < rounds; i++) {
    const place = path.join(folder, String(Math.floor(i / KILLS_OF_ONE)));
    const told = path.join(place, 'told');
    const data = path.join(place, 'data');
    mkdirSync(data, { recursive: true });
    const seed = Math.floor(random() * 10_000);
    const ended = await child(['work', data, told, String(seed)], process.env, 250 + random() * 1200);
    const acknowledged = existsSync(told) ? acknowledgedIn(readFileSync(told, 'utf8')) : [];
    report.add(`kill ${i} (seed ${seed})`, ended ? [ended] : await faultsOf(data, acknowledged));
  }
}

interface Recorded {
  readonly name: string;
  readonly log: string;
  readonly rootInode: number;
  readonly beginning: readonly Beginning[];
}

/** Records what a child does to a folder. */
async function recorded(
  name: string,
  folder: string,
  library: string,
  prepare: (data: string) => Promise<void>,
  args: (data: string) => string[],
  report: Report,
): Promise<Recorded> {
  const data = path.join(folder, name, 'data');
  const log = path.join(folder, name, 'log');
  mkdirSync(data, { recursive: true });
  await prepare(data);
  const beginning = beginningOf(data);
  const ended = await child(args(data), diskEnvironment(library, data, log));
  report.add(`record ${name}`, ended ? [ended] : []);
  return { name, log, rootInode: statSync(data).ino, beginning };
}

interface Failing {
  readonly name: string;
  readonly folder: string;
  readonly library: string;
  readonly share: number;
  readonly seed: number;
  readonly report: Report;
}

/** Lets calls fail, a share of all, in a folder of its own; what came of each is a round. */
async function failing({ name, folder, library, share, seed, report }: Failing): Promise<Recorded> {
  const told = path.join(folder, `${name} told`);
  const prepare = () => Promise.resolve();
  const args = (data: string) => ['faults', data, told, String(share), String(seed)];
  const found = await recorded(name, folder, library, prepare, args, report);
  for (const line of readFileSync(told, 'utf8').trim().split('\n')) {
    const { what, wrong } = JSON.parse(line) as { what: string; wrong: string[] };
    report.add(what, wrong);
  }
  return found;
}

/** Cuts the power at random moments of what was recorded. */
async function cutting(
  { name, log, rootInode, beginning }: Recorded,
  rounds: number,
  random: () => number,
  folder: string,
  report: Report,
): Promise<void> {
  const records = readLog(log);
  const moments = Array.from({ length: rounds }, () => Math.floor(random() * (records.length + 1))).sort(
    (a, b) => a - b,
  );
  const disk = new Disk(rootInode, beginning);
  const acknowledged: Acknowledged[] = [];
  let played = 0;
  for (const moment of moments) {
    for (; played < moment; played++) {
      const record = records[played]!;
      if (record.kind === 'mark') acknowledged.push(JSON.parse(record.data.toString()) as Acknowledged);
      else disk.play(record);
    }
    // Nothing of the rest, all of it, or any part.
    const share = [0, 1, 0.5, random()][Math.floor(random() * 4)]!;
    const data = path.join(folder, 'cut');
    rmSync(data, { recursive: true, force: true });
    disk.cut(data, () => random() < share);
    const found = await faultsOf(data, acknowledged);
    report.add(`power cut of ${name} at ${moment} of ${records.length}, keeping ${share.toFixed(2)}`, found);
  }
}

async function torture(rounds: number, seed: number): Promise<number> {
  const folder = mkdtempSync(path.join(tmpdir(), 'loess-torture-'));
  const random = randomFrom(seed);
  const report = new Report();
  const started = Date.now();
  const library = compileDisk(process.cwd());
  const nothing = () => Promise.resolve();
  const step = (text: string) =>
    console.log(`${String(Math.round((Date.now() - started) / 1000)).padStart(5)} s  ${text}`);
  console.log(`${rounds} rounds with seed ${seed}, in ${folder}`);
  try {
    const isAll = rounds >= 500;
    // Every n is tried where there is time for it, some of them otherwise.
    const share = isAll ? 1 : rounds / 4000;
    const work = await recorded(
      'work',
      folder,
      library,
      nothing,
      (data) => ['record', data, String(seed), isAll ? '60' : '14'],
      report,
    );
    const older = await recorded(
      'migration',
      folder,
      library,
      prepareOlder,
      (data) => ['record', data, String(seed + 1), '0'],
      report,
    );
    step('recorded');
    const before = report.rounds;
    const failed = (name: string, part: number) => failing({ name, folder, library, share: part, seed, report });
    const all = await failed('faults', share);
    // A folder that every fault at every call went through is too large to be looked at after each cut.
    const some = share > FAULTS_CUT ? await failed('some-faults', FAULTS_CUT) : all;
    step(`${report.rounds - before} faults of the disk`);
    const kills = Math.max(3, Math.floor(rounds / 10));
    await killing(path.join(folder, 'killed'), kills, random, report);
    step(`${kills} kills`);
    const cuts = Math.max(12, Math.ceil(rounds / 5), rounds - report.rounds);
    const shares: [Recorded, number][] = [
      [work, Math.ceil(cuts * 0.5)],
      [older, Math.ceil(cuts * 0.25)],
      [some, Math.ceil(cuts * 0.25)],
    ];
    for (const [one, n] of shares) await cutting(one, n, random, folder, report);
    step('cut from power');
  } finally {
    if (report.faults.length === 0) rmSync(folder, { recursive: true, force: true });
  }
  console.log(`${report.rounds - report.wrong} passed, ${report.wrong} failed`);
  return report.faults.length === 0 ? 0 : 1;
}

async function main(): Promise<number> {
  const [order = '', data = '', ...rest] = process.argv.slice(2);
  if (order === 'work') {
    await workOn(data, (what) => appendFileSync(rest[0]!, `${JSON.stringify(what)}\n`), Number(rest[1]));
    return 0;
  }
  if (order === 'record') {
    await workOn(data, mark, Number(rest[0]), Number(rest[1]));
    return 0;
  }
  if (order === 'faults') {
    await failEverywhere(data, rest[0]!, Number(rest[1]), randomFrom(Number(rest[2])));
    return 0;
  }
  return torture(Number(order || 1000), SEED);
}

main().then(
  (code) => process.exit(code),
  (error: Error) => {
    console.error(error.stack);
    process.exit(1);
  },
);
