/** The terminal program as a process: pipes that close, signals at any moment, part files of dead builds. */
import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { constants, tmpdir } from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { tarOf } from '@tests/archives';
import { fatPart, layoutOn } from '@tests/samples';
import { folderOfEachTest, risky, sound, stopped } from '@tests/terminal';
import { cases, numbersFrom, SEED } from '@tests/tier';
import { until } from '@tests/until';
import { readLayout, writeLayout } from '@/core/layout/validate';
import { EXIT, SIGNALS } from './exit';

const PROGRAM = path.resolve('bin/loess.mjs');
const { now, file, document } = folderOfEachTest();
/** An image of a sound layout, built once, and a tar. */
let [image, archive] = [Buffer.alloc(0), Buffer.alloc(0)];
beforeAll(async () => {
  // Bundled once; the calls that are measured find it made.
  expect(spawnSync(process.execPath, [PROGRAM, '--version'], { encoding: 'utf8' }).stdout).toMatch(/^\d+\.\d+\.\d+\n$/);
  archive = gzipSync(await tarOf([{ name: 'A.TXT', content: 'tide '.repeat(200_000) }]));
  const place = mkdtempSync(path.join(tmpdir(), 'loess-process-'));
  const made = path.join(place, 'made.img');
  const options = { input: writeLayout(sound()), cwd: place };
  expect(spawnSync(process.execPath, [PROGRAM, 'build', '-', '--into', made], options).status).toBe(EXIT.done);
  image = readFileSync(made);
  rmSync(place, { recursive: true });
});

const sumOf = (name: string) => createHash('sha256').update(readFileSync(name)).digest('hex');

interface Run {
  readonly code: number | null;
  readonly signal: NodeJS.Signals | null;
  readonly error: string;
}

/** Runs the program; `during` may do something to it. */
function loess(args: readonly string[], during: (child: ChildProcess) => void = () => undefined) {
  return new Promise<Run>((resolve) => {
    const child = spawn(process.execPath, [PROGRAM, ...args], { cwd: now() });
    let error = '';
    child.stderr.on('data', (chunk: Buffer) => (error += String(chunk)));
    child.stdout.resume();
    during(child);
    child.on('exit', (code, signal) => resolve({ code, signal, error }));
  });
}

const shell = (line: string) =>
  spawnSync('bash', ['-c', `set -o pipefail; loess() { "${process.execPath}" "${PROGRAM}" "$@"; }; ${line}`], {
    cwd: now(),
    encoding: 'utf8',
  });

test('a reader that goes away hides no stop, and ends what is in order as other programs end', () => {
  document(sound());
  document(stopped(), 'stopped.json');
  // The reader is gone before anything is said: it reads nothing, and the program starts slower than it ends.
  expect(shell('loess place layout.json | true').status).toBe(EXIT.readerGone);
  expect(shell('loess check stopped.json | true').status).toBe(EXIT.stop);
  expect(shell('loess check stopped.json --json | head -c 1 >/dev/null').status).toBe(EXIT.stop);
  expect(shell('loess check stopped.json >&-').status).toBe(EXIT.stop);
  // Whoever reads errors may go away too.
  expect(shell('loess check none.json 2>&1 >/dev/null | true').status).toBe(EXIT.file);
});

/**
 * Whether a program listens to signals by now, as the kernel says (`SigCgt` of proc_pid_status(5)).
 * Node itself catches the others from its first moment; the hangup is caught by the program alone, and first.
 */
function isListening(pid: number): boolean {
  const caught = /^SigCgt:\s*([0-9a-f]+)$/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]!;
  return (BigInt(`0x${caught}`) >> BigInt(constants.signals.SIGHUP - 1)) % 2n === 1n;
}

/** Whether a child runs, and listens to signals. */
const isReady = (child: ChildProcess) => child.exitCode === null && isListening(child.pid!);

test('what waits ends at once by every signal', async () => {
  for (const [signal, exit] of Object.entries(SIGNALS)) {
    // Its input never ends: only the signal can end it.
    const { code } = await loess(
      ['check', '-'],
      (child) => void until(() => isReady(child)).then(() => child.kill(signal as NodeJS.Signals)),
    );
    expect([signal, code]).toEqual([signal, exit]);
  }
});

const COMMANDS: Readonly<Record<string, readonly string[]>> = {
  check: ['check', 'layout.json'],
  place: ['place', 'layout.json', '--json'],
  build: ['build', 'layout.json', '--into', 'made.img'],
  'build in place': ['build', 'layout.json', '--into', 'there.img', '--replace'],
  survey: ['survey', 'there.img'],
  accept: ['accept', 'risky.json', '--all', '--reason', 'it comes later'],
  schema: ['schema', '--into', 'made.json'],
  completion: ['completion', 'bash'],
  new: ['new', '--start', 'stick', '--into', 'made.json'],
  lines: ['lines', 'layout.json'],
  'fill-in': ['fill-in', 'bare.json'],
  'build of an archive': ['build', 'layout.json', '--from', 'boot=files.tgz', '--into', 'made.img'],
  series: ['series', 'layout.json', '--copies', '20', '--into', 'made'],
};

/**
 * Moments of a run at which a signal comes: at its start, once it listens to signals, once it has made something. Each resolves
 * at its moment, or where the run ended before.
 */
const MOMENTS: Record<string, (child: ChildProcess) => Promise<void>> = {
  started: () => Promise.resolve(),
  listening: (child) => until(() => child.exitCode !== null || child.signalCode !== null || isReady(child)),
  making: (child) => {
    const there = readdirSync(now()).length;
    return until(() => child.exitCode !== null || child.signalCode !== null || readdirSync(now()).length > there);
  },
};

/** Milliseconds after its start at which a run is ended too, in the second tier. */
const draw = numbersFrom(SEED);
for (let i = 0; i < cases(0, 12); i++) {
  const after = draw(600);
  // eslint-disable-next-line tests/no-sleep -- any moment is a good one to be ended at
  MOMENTS[`after ${after} ms`] = () => new Promise((resume) => setTimeout(resume, after));
}

/** Every pair of a signal and a moment. */
const PAIRS = Object.keys(SIGNALS).flatMap((signal) => Object.keys(MOMENTS).map((moment) => [signal, moment] as const));
/** Of each command one of them, of all commands together every one; or all of each. */
const pairsOf = (command: number) => cases([PAIRS[command % PAIRS.length]!], PAIRS);

/** A document without its ids, as it is before each run. */
function bareDocument(): void {
  const { date: _, ...rest } = sound();
  writeFileSync(file('bare.json'), JSON.stringify({ ...rest, table: { kind: 'mbr' } }));
}

test.each(Object.keys(COMMANDS).map((name, i) => [name, i] as const))(
  '%s: ended by a signal, it leaves its result whole or not at all',
  async (name, command) => {
    const args = COMMANDS[name]!;
    document(sound());
    document(risky(), 'risky.json');
    bareDocument();
    writeFileSync(file('files.tgz'), archive);
    writeFileSync(file('there.img'), image);
    const before = sumOf(file('there.img'));
    if (args.includes('made.img')) expect(await loess(args)).toMatchObject({ code: EXIT.done });
    const whole = existsSync(file('made.img')) ? sumOf(file('made.img')) : undefined;
    for (const [signal, moment] of pairsOf(command)) {
      for (const made of ['made.img', 'made.json', 'made']) rmSync(file(made), { recursive: true, force: true });
      document(risky(), 'risky.json');
      bareDocument();
      const run = await loess(
        args,
        (child) => void MOMENTS[moment]!(child).then(() => child.kill(signal as NodeJS.Signals)),
      );
      // Before it listens to signals they end it as they end every program.
      const exit = SIGNALS[signal as keyof typeof SIGNALS];
      const ends = run.code === null ? run.signal === signal : [EXIT.done, exit].includes(run.code as 0);
      expect([signal, moment, run, ends]).toEqual([signal, moment, run, true]);
      expect(readdirSync(now()).filter((one) => one.includes('.part'))).toEqual([]);
      expect(sumOf(file('there.img'))).toBe(before);
      if (existsSync(file('made.img'))) expect(sumOf(file('made.img'))).toBe(whole);
      expect(readLayout(readFileSync(file('risky.json'), 'utf8')).ok).toBe(true);
      expect(readdirSync(now()).filter((one) => one.endsWith('.new'))).toEqual([]);
      JSON.parse(readFileSync(file('bare.json'), 'utf8'));
      if (existsSync(file('made'))) expect(readdirSync(file('made'))).toHaveLength(20);
      if (existsSync(file('made.json'))) JSON.parse(readFileSync(file('made.json'), 'utf8'));
    }
  },
);

test('what a dead build left does not block the next one, and goes with it', async () => {
  document(layoutOn('2 GiB', [fatPart('boot', 'rest', { label: 'GAUGE', cluster: '512 B', variant: undefined })]));
  const isStarted = () => readdirSync(now()).some((one) => one.endsWith('.part'));
  const run = await loess(
    ['build', 'layout.json', '--into', 'made.img'],
    (child) => void until(isStarted).then(() => child.kill('SIGKILL')),
  );
  expect(run.signal).toBe('SIGKILL');
  expect(isStarted()).toBe(true);
  expect(await loess(['build', 'layout.json', '--into', 'made.img'])).toMatchObject({ code: EXIT.done, error: '' });
  expect(isStarted()).toBe(false);
  // What another machine may be writing is left, and named.
  writeFileSync(file('made.img.1-elsewhere.part'), '');
  const next = await loess(['build', 'layout.json', '--into', 'made.img', '--replace']);
  expect(next).toMatchObject({
    code: EXIT.done,
    error: expect.stringContaining('made.img.1-elsewhere.part') as string,
  });
  expect(existsSync(file('made.img.1-elsewhere.part'))).toBe(true);
});

test('an image that came meanwhile is not replaced', async () => {
  document(layoutOn('2 GiB', [fatPart('boot', 'rest', { label: 'GAUGE', cluster: '512 B', variant: undefined })]));
  const isStarted = () => readdirSync(now()).some((one) => one.endsWith('.part'));
  const run = await loess(
    ['build', 'layout.json', '--into', 'made.img'],
    () => void until(isStarted).then(() => writeFileSync(file('made.img'), 'of somebody else')),
  );
  expect(run).toMatchObject({ code: EXIT.file });
  expect(readFileSync(file('made.img'), 'utf8')).toBe('of somebody else');
  expect(readdirSync(now()).sort()).toEqual(['layout.json', 'made.img']);
});

test('what is no file is refused by what it is', () => {
  expect(shell('mkfifo pipe; loess survey pipe')).toMatchObject({
    status: EXIT.file,
    stderr: expect.stringContaining('is a pipe') as string,
  });
  expect(shell('loess survey /dev/null').stderr).toContain('is a character device');
  expect(shell('loess survey .').stderr).toContain('is a folder');
  document(sound());
  expect(shell('loess check <(cat layout.json)').status).toBe(EXIT.done);
  symlinkSync('layout.json', file('link.json'));
  expect(shell('loess check link.json').status).toBe(EXIT.done);
});

test('a fault of the program ends with a number of its own', () => {
  document(sound());
  writeFileSync(file('fault.cjs'), "JSON.stringify = () => { throw new TypeError('a fault'); };");
  const program = path.resolve('build/terminal/main.cjs');
  const { status, stderr } = spawnSync(
    process.execPath,
    ['-r', file('fault.cjs'), program, 'place', 'layout.json', '--json'],
    {
      cwd: now(),
      encoding: 'utf8',
    },
  );
  expect([status, stderr]).toEqual([EXIT.fault, expect.stringMatching(/^This is a fault of the program[^]*a fault/)]);
});

test('a call that is wrong is told to machines as JSON', () => {
  for (const line of ['loess weigh --json', 'loess check --json', 'loess build x --json', 'loess check a b --json']) {
    const { status, stderr, stdout } = shell(line);
    expect([line, status, stdout]).toEqual([line, EXIT.usage, '']);
    expect(JSON.parse(stderr)).toMatchObject({ answer: 'error', code: expect.stringMatching(/^usage-/) as string });
  }
  expect(shell('loess chek x').stderr).toContain('check');
  expect(shell('loess help build').stdout).toContain('--into');
});

describe('the package', () => {
  let packed: string;
  const npm = (args: readonly string[], cwd: string) =>
    spawnSync('npm', args, {
      cwd,
      encoding: 'utf8',
      env: { ...process.env, npm_config_cache: path.join(packed, 'cache') },
    });

  beforeAll(() => {
    packed = mkdtempSync(path.join(tmpdir(), 'loess-package-'));
    chmodSync(packed, 0o755);
    const made = npm(['pack', '--pack-destination', packed], path.resolve('.'));
    expect(made.stderr + made.stdout).toContain('.tgz');
    // No network is asked: it needs nothing else.
    const tarball = path.join(
      packed,
      readdirSync(packed).find((one) => one.endsWith('.tgz'))!,
    );
    mkdirSync(path.join(packed, 'home'));
    writeFileSync(path.join(packed, 'home', 'package.json'), '{}');
    expect(npm(['install', '--offline', '--no-audit', '--no-fund', tarball], path.join(packed, 'home')).status).toBe(0);
  });
  afterAll(() => rmSync(packed, { recursive: true, force: true }));

  const installed = () => path.join(packed, 'home', 'node_modules', 'loess');
  /** Runs the installed program as nobody, without a home, in a folder that cannot be written. */
  const asNobody = (args: readonly string[], input = '') =>
    spawnSync(process.execPath, [path.join(installed(), 'bin', 'loess.mjs'), ...args], {
      cwd: '/',
      input,
      encoding: 'utf8',
      env: { PATH: process.env.PATH, NODE_ENV: 'production' },
      ...(process.getuid?.() === 0 && { uid: 65_534, gid: 65_534 }),
    });

  test('is small, and has no tests, sources and pictures', () => {
    const files = readdirSync(installed(), { recursive: true, encoding: 'utf8' });
    expect(files.filter((one) => /\.test\.|\.png$|^src|node_modules/.test(one))).toEqual([]);
    expect(files).toEqual(expect.arrayContaining(['LICENSE', 'README.md', 'docs/terminal.md', 'bin/loess.mjs']));
    const [tarball] = readdirSync(packed).filter((one) => one.endsWith('.tgz'));
    expect(statSync(path.join(packed, tarball!)).size).toBeLessThan(1_500_000);
  });

  test('runs as another user, where nothing can be written', () => {
    expect(asNobody(['--version']).stdout).toMatch(/^\d/);
    const made = asNobody(['new', '--start', 'board-card']);
    expect(made.status).toBe(EXIT.done);
    expect(asNobody(['check', '-'], made.stdout)).toMatchObject({ status: EXIT.done });
    chmodSync(now(), 0o777);
    const image = file('made.img');
    expect(asNobody(['build', '-', '--into', image], writeLayout(sound()))).toMatchObject({ status: EXIT.done });
    expect(asNobody(['survey', image])).toMatchObject({ status: EXIT.done });
    expect(asNobody(['build', '-', '--into', '/made.img'], writeLayout(sound())).status).toBe(EXIT.file);
  });

  test('says of a data folder that it has no program for the database', () => {
    const { status, stderr } = asNobody(['check-data', now()]);
    expect([status, stderr]).toEqual([EXIT.file, expect.stringContaining('@libsql/client') as string]);
  });
});
