/** docs/terminal.md as it stands: every command in it is run, and its pipeline in all sorts of places. */
import { execFileSync, spawnSync } from 'node:child_process';
import { chmodSync, cpSync, mkdirSync, readdirSync, readFileSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { layoutWith, storedTreeOf } from '@tests/keeping';
import { folderOfEachTest } from '@tests/terminal';
import { openContext } from '@/server/context';
import { createLayout } from '@/server/layouts';
import { EXIT } from './exit';

const PROGRAM = path.resolve('bin/loess.mjs');
const { now, file } = folderOfEachTest();
const PAGE = readFileSync('docs/terminal.md', 'utf8');

/** The blocks of commands of a page, in their order. */
const blocksOf = (page: string) => [...page.matchAll(/^```sh\n([^]*?)^```$/gm)].map(([, text]) => text!);
const BLOCKS = blocksOf(PAGE);
const PIPELINE = BLOCKS.find((text) => text.startsWith('set -e'))!;

/** How each call of the program in a block is said to end. */
function endsOf(block: string): number[] {
  const calls = block.split('\n').filter((line) => line.startsWith('loess '));
  return calls.map((line) => Number(/# ends with (\d+)/.exec(line)?.[1] ?? 0));
}

interface Where {
  readonly cwd: string;
  readonly env?: Readonly<Record<string, string>>;
  readonly user?: number;
}

/** Runs a block; how each call of the program ended. */
function runBlock(block: string, { cwd, env = {}, user }: Where): { ends: number[]; error: string } {
  const told = path.join(cwd, '.ends');
  const preamble = `loess() { '${process.execPath}' '${PROGRAM}' "$@"; local ended=$?; echo $ended >> .ends; return $ended; }`;
  writeFileSync(told, '');
  chmodSync(told, 0o666);
  // Nothing of where this test runs: no home, no terminal, no settings.
  const { stderr } = spawnSync('bash', ['-c', `${preamble}\n${block}`], {
    cwd,
    encoding: 'utf8',
    stdio: ['ignore', 'ignore', 'pipe'],
    env: { PATH: process.env.PATH, NODE_ENV: 'production', ...env },
    ...(user !== undefined && process.getuid?.() === 0 && { uid: user, gid: user }),
  });
  return { ends: readFileSync(told, 'utf8').split('\n').filter(Boolean).map(Number), error: stderr };
}

test('every command of the page ends as it says', () => {
  expect(BLOCKS.length).toBeGreaterThan(6);
  for (const block of BLOCKS) {
    const { ends, error } = runBlock(block, { cwd: now() });
    expect([block, ends, error]).toEqual([block, endsOf(block), error]);
  }
  expect(readdirSync(file('sticks'))).toEqual(['stick-1.img', 'stick-2.img', 'stick-3.img']);
  // The same slots, by way of their lines.
  const lines = (name: string) => execFileSync(process.execPath, [PROGRAM, 'lines', file(name)], { encoding: 'utf8' });
  expect(lines('again.json')).toBe(lines('stick.json'));
});

test('the commands of the README work where it stands', () => {
  const [, block] = /^## At a terminal\n\n```\n([^]*?)^```$/m.exec(readFileSync('README.md', 'utf8'))!;
  const commands = block!.trim().split('\n');
  expect(commands).toHaveLength(4);
  const into = (line: string) => line.replaceAll('gauge.img', file('gauge.img'));
  for (const line of commands) execFileSync('bash', ['-c', into(line)], { stdio: ['ignore', 'pipe', 'pipe'] });
});

test('the commands about data folders do what their page says', async () => {
  const context = await openContext({ data: file('data') });
  await createLayout(context, layoutWith(await storedTreeOf(context, 'tide')), 'Created');
  await context.close();
  mkdirSync(file('backups'));
  const blocks = blocksOf(readFileSync('docs/operating.md', 'utf8'));
  expect(blocks).toHaveLength(2);
  for (const block of blocks) {
    const commands = block.replace(/^LOESS_DATA=.*$/gm, '');
    const { ends, error } = runBlock(commands, { cwd: now() });
    expect([commands, ends, error]).toEqual([commands, endsOf(commands), error]);
  }
  expect(readdirSync(file('data-new'))).toContain('contents');
});

describe('the pipeline', () => {
  const FILES = ['b.txt', 'a.txt', 'Größe der Flut.csv'];

  /** Files in a folder, of one moment. */
  function put(folder: string, time: string): void {
    mkdirSync(folder, { recursive: true });
    for (const one of FILES) {
      writeFileSync(path.join(folder, one), one);
      utimesSync(path.join(folder, one), new Date(time), new Date(time));
    }
  }

  /** A folder with the document, and with its files where the pipeline has them. */
  function prepared(name: string, time: string): string {
    const folder = file(name);
    put(path.join(folder, 'files'), time);
    cpSync(file('filled.json'), path.join(folder, 'filled.json'));
    chmodSync(folder, 0o777);
    return folder;
  }

  const sumIn = (folder: string) => readFileSync(path.join(folder, 'out', 'gauge.img.sha256'), 'utf8').slice(0, 64);
  const surveyIn = (folder: string) => readFileSync(path.join(folder, 'out', 'gauge.survey.json'), 'utf8');

  beforeEach(() => {
    const layout = {
      format: 'loess-layout',
      version: 2,
      name: 'Größe “der” Flut',
      medium: { kind: 'card', capacity: { exact: '64 MiB' }, logicalSector: 512, physicalSector: 512 },
      boots: [],
      table: { kind: 'mbr' },
      slots: [
        {
          kind: 'partition',
          name: 'Pegel',
          role: 'data',
          size: 'rest',
          content: { kind: 'fat', filesFrom: 'files' },
        },
      ],
    };
    writeFileSync(file('filled.json'), JSON.stringify(layout));
    chmodSync(now(), 0o755);
    put(file('files'), '2025-12-31T23:59:59Z');
    expect(runBlock('loess fill-in filled.json', { cwd: now() }).ends).toEqual([EXIT.done]);
  });

  test('twice, in two folders, under two users and two time zones: the same sums', () => {
    const [one, other] = [
      prepared('one', '2026-03-01T00:00:00Z'),
      prepared('the second, für Möwen', '2026-11-11T11:11:11Z'),
    ];
    expect(runBlock(PIPELINE, { cwd: one, env: { TZ: 'Pacific/Auckland' } })).toMatchObject({ ends: [0, 0, 0] });
    const first = [sumIn(one), surveyIn(one)];
    // Again, over what is there.
    expect(runBlock(PIPELINE, { cwd: one, env: { TZ: 'UTC', HOME: '/nowhere' } })).toMatchObject({ ends: [0, 0, 0] });
    expect([sumIn(one), surveyIn(one)]).toEqual(first);
    const user = 65_534;
    expect(runBlock(PIPELINE, { cwd: other, env: { TZ: 'America/St_Johns', LANG: 'C' }, user })).toMatchObject({
      ends: [0, 0, 0],
    });
    expect([sumIn(other), surveyIn(other)]).toEqual(first);
  });

  test('in a folder that cannot be written, and on a full disk: nothing partial, and it says why', () => {
    const folder = prepared('closed', '2026-03-01T00:00:00Z');
    mkdirSync(path.join(folder, 'out'), { mode: 0o555 });
    const closed = runBlock('loess build filled.json --into out/gauge.img', {
      cwd: folder,
      user: 65_534,
    });
    expect([closed.ends, closed.error]).toEqual([[EXIT.file], expect.stringContaining('it may not be opened')]);
    const build = `mount -t tmpfs -o size=16k full out && loess build filled.json --into out/gauge.img; ls -A out > listing`;
    writeFileSync(
      path.join(folder, 'block.sh'),
      `loess() { '${process.execPath}' '${PROGRAM}' "$@"; echo $? > ended; }\n${build}\n`,
    );
    const full = spawnSync('unshare', ['-Urm', 'bash', 'block.sh'], { cwd: folder, encoding: 'utf8' });
    expect([full.stderr.trim(), readFileSync(path.join(folder, 'ended'), 'utf8')]).toEqual([
      expect.stringContaining('the disk is full; nothing partial was left'),
      `${EXIT.file}\n`,
    ]);
    expect(readFileSync(path.join(folder, 'listing'), 'utf8')).toBe('');
    expect(statSync(path.join(folder, 'out')).mode & 0o777).toBe(0o555);
  });
});
