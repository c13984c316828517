/** The parts of the tests: their table, and that no test is in none of them. */
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { PARTS } from '../scripts/test-parts.mjs';
import { MUTANTS } from './mutant-list';
import { withTable } from './parts-table';
import { SEED } from './tier';

test('CONTRIBUTING.md has the table of the parts as they are', () => {
  const times = JSON.parse(readFileSync('tests/part-times.json', 'utf8')) as Record<string, number>;
  const page = readFileSync('CONTRIBUTING.md', 'utf8');
  expect(page).toBe(withTable(page, times));
  expect(Object.keys(times).filter((name) => !PARTS.some((part) => part.name === name))).toEqual([]);
});

test('parts have names of their own, and the programs that they run', () => {
  const names = PARTS.map(({ name }) => name);
  expect(new Set(names).size).toBe(names.length);
  const programs = PARTS.flatMap(({ program }) => program?.[0] ?? []).filter((one) => one.includes('/'));
  expect(programs.filter((one) => !existsSync(one))).toEqual([]);
});

test('every deep machine test belongs to one part', () => {
  const files = execFileSync('git', ['ls-files', 'machine/*.test.ts'], { encoding: 'utf8' }).trim().split('\n');
  const patterns = PARTS.filter(({ tier, projects }) => tier === 'deep' && projects?.includes('machine')).flatMap(
    ({ files: some }) => (some ?? []).map((one) => new RegExp(one)),
  );
  for (const file of files) expect([file, patterns.filter((pattern) => pattern.test(file)).length]).toEqual([file, 1]);
});

test('the seed of the first tier is the one that its runner prints', () => {
  if (process.env.LOESS_TIER !== 'deep' && process.env.LOESS_SEED === undefined) expect(SEED).toBe(20_260_301);
  expect(readFileSync('scripts/test.mjs', 'utf8')).toContain('const SEED = 20_260_301;');
});

test('each mutant is a line that stands once in its file, with tests that are there', () => {
  expect(MUTANTS.length).toBeGreaterThanOrEqual(40);
  for (const { file, from, to, tests } of MUTANTS) {
    expect([file, from, readFileSync(file, 'utf8').split(from).length]).toEqual([file, from, 2]);
    expect(from).not.toBe(to);
    expect(tests.filter((one: string) => !existsSync(one))).toEqual([]);
  }
});
