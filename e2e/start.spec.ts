/** A server that cannot start says which path it is about, why, and what to do; its log is one object a line. */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { expect } from '@playwright/test';
import { oneOf } from '../tests/tier';
import { test } from './server';

let folder: string;
test.beforeEach(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-start-'));
});
test.afterEach(() => rmSync(folder, { recursive: true, force: true }));

/** Starts a server that is expected to end by itself. */
function started(env: Readonly<Record<string, string>>) {
  const { status, stderr, stdout } = spawnSync(process.execPath, ['build/server.mjs'], {
    env: { ...process.env, NODE_ENV: 'production', ...env },
    encoding: 'utf8',
    timeout: 30_000,
  });
  return { status, said: stderr + stdout };
}

const data = () => path.join(folder, 'data');

/** `port` is one that is in use. */
type Case = readonly [
  name: string,
  make: (port: number) => Record<string, string>,
  sentence: RegExp | ((port: number) => RegExp),
];

const CASES: readonly Case[] = [
  [
    'a file in the place of the data folder',
    () => {
      writeFileSync(data(), 'tide');
      return { LOESS_DATA: data() };
    },
    /\/data.* is a file, and the data folder needs (a folder|folders) there\. .*LOESS_DATA/,
  ],
  [
    'a folder in the place of the database',
    () => {
      mkdirSync(path.join(data(), 'loess.db'), { recursive: true });
      return { LOESS_DATA: data() };
    },
    /\/data\/loess\.db is a folder, and the database needs a file there/,
  ],
  [
    'something else in the place of the database',
    () => {
      mkdirSync(data());
      writeFileSync(path.join(data(), 'loess.db'), 'this is no database, whatever it may be '.repeat(400));
      return { LOESS_DATA: data() };
    },
    /\/data\/loess\.db is damaged.* restore a backup/,
  ],
  ['a place where no folder can be made', () => ({ LOESS_DATA: '/proc/loess' }), /\/proc\/loess.*LOESS_DATA/],
  [
    'a log that cannot be written',
    () => ({ LOESS_DATA: data(), LOESS_LOG: 'info:/proc/none/log' }),
    /The log cannot be written to “\/proc\/none\/log”/,
  ],
  [
    'a log of no level',
    () => ({ LOESS_DATA: data(), LOESS_LOG: 'loud' }),
    /LOESS_LOG must be a level \(debug, info, warn, error\)/,
  ],
  ['a port that is none', () => ({ LOESS_DATA: data(), PORT: 'tide' }), /PORT must be a whole number above zero/],
  [
    'a port that is in use',
    (port) => ({ LOESS_DATA: data(), PORT: String(port) }),
    (port) => new RegExp(`Port ${port} is in use\\. Name another in PORT`),
  ],
];

for (const [name, make, sentence] of oneOf(2, CASES))
  test(`${name} is reported`, ({ port, sparePort }) => {
    const { status, said } = started({ PORT: String(sparePort), ...make(port) });
    expect(said).toMatch(sentence instanceof RegExp ? sentence : sentence(port));
    expect(status).toBe(1);
    expect(said).not.toMatch(/^\s+at /m);
  });

test('the log goes where it is said, one object a line, with the path of the data folder', ({ port: taken }) => {
  const file = path.join(folder, 'loess.log');
  started({ LOESS_DATA: data(), LOESS_LOG: `debug:${file}`, PORT: String(taken) });
  expect(existsSync(file)).toBe(true);
  const lines = readFileSync(file, 'utf8')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, unknown>);
  expect(lines.length).toBeGreaterThan(0);
  for (const line of lines)
    expect(line).toMatchObject({ time: expect.any(String), level: expect.any(String), message: expect.any(String) });
  expect(lines.some(({ level, port }) => level === 'error' && port === taken)).toBe(true);
});
