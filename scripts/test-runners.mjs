/** How parts of the tests run: each runner resolves with how many tests passed, and with a line for each that failed. */
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { bin, bundleTorture, CACHE, ROOT } from './prepare.mjs';

/** Programs that run now. A signal to this one is given to them; what was under way has no result then. */
const children = new Set();
let signalled = false;
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    signalled = true;
    for (const child of children) child.kill(signal);
  });

/** True once a signal has asked this program to end. */
export const ended = () => signalled;

/** Runs a program; resolves with whether it went well, and with what it printed unless that is shown as it comes (`shows: 'now'`). */
function run(program, args, { env = {}, shows = 'now' } = {}) {
  return new Promise((resolve) => {
    const isTerminal = process.stdout.isTTY && shows !== 'now';
    const child = spawn(program, args, {
      stdio: ['ignore', shows === 'now' ? 'inherit' : 'pipe', shows === 'end' ? 'pipe' : 'inherit'],
      env: { ...process.env, ...(isTerminal && { FORCE_COLOR: '1' }), ...env },
    });
    children.add(child);
    let text = '';
    child.stdout?.on('data', (chunk) => {
      text += chunk;
      if (shows === 'both') process.stdout.write(chunk);
    });
    child.stderr?.on('data', (chunk) => (text += chunk));
    const end = (status, more = '') => {
      children.delete(child);
      resolve({ isGood: status === 0, text: text + more });
    };
    child.on('error', (error) => end(1, `${error.message}\n`));
    child.on('close', (status) => end(status));
  });
}

/** What was looked at before and has not changed is not looked at again; a clean checkout looks at everything. */
const lint = (name, paths) => [
  name,
  'eslint',
  [...paths, '--max-warnings=0', '--cache', '--cache-location', `.cache/eslint/${name}`, '--cache-strategy', 'content'],
];

/** Folders of the lint’s first half; the other half is all the rest. */
const FIRST_HALF = ['src/core', 'tests', 'machine'];

const CHECKS = [
  lint('lint of the core', FIRST_HALF),
  lint('lint of the rest', ['.', ...FIRST_HALF.flatMap((folder) => ['--ignore-pattern', `${folder}/**`])]),
  ['types', 'tsc', ['--noEmit', '--incremental', '--tsBuildInfoFile', '.cache/types.tsbuildinfo']],
  ['layers and circles', 'depcruise', ['src', '--output-type', 'err']],
  ['formatting', 'prettier', ['--check', '--log-level=warn', '--cache', '--cache-location', '.cache/prettier', '.']],
  [
    'dead code',
    'ts-unused-exports',
    [
      'tsconfig.json',
      '--allowUnusedTypes',
      '--excludePathsFromReport=src/app;config.ts;e2e/setup.ts;machine/setup.ts;tests/rounds.ts;scripts/again-reporter.mjs;scripts/again-playwright.mjs;tests/environment.ts;tests/workers.mjs',
    ],
  ],
];

/** The checks, two at a time as there are cores; what each says is printed in one piece. */
async function checks() {
  let passed = 0;
  const failures = [];
  const waiting = [...CHECKS];
  const work = async () => {
    for (let next = waiting.shift(); next; next = waiting.shift()) {
      const [name, program, args] = next;
      const { isGood, text } = await run(bin(program), args, { shows: 'end' });
      process.stdout.write(text);
      console.log(`${name}: ${isGood ? 'passed' : 'FAILED'}`);
      if (isGood) passed += 1;
      else failures.push(`static: ${name}`);
    }
  };
  await Promise.all([work(), work()]);
  return { passed, failures };
}

/** Runs a test runner that writes its results as JSON; a run without a result, or without a test, is one failure. */
async function counted(name, program, args, env, read) {
  const file = path.join(CACHE, `${name}.json`);
  mkdirSync(CACHE, { recursive: true });
  rmSync(file, { force: true });
  const { isGood } = await run(bin(program), args(file), { env: env(file) });
  if (!existsSync(file)) return { passed: 0, failures: [`${name}: no result`] };
  const [passed, failed] = read(JSON.parse(readFileSync(file, 'utf8')));
  const failures = failed.map((one) => `${name}: ${one}`);
  if (!isGood && failures.length === 0) failures.push(`${name}: ended with an error`);
  if (passed === 0 && failures.length === 0) failures.push(`${name}: ran no test`);
  return { passed, failures };
}

/** Tests of a file of Jest's that did not pass, each with its file; a file that did not run is one. Those that a name leaves out are `pending`. */
function failedInFile({ name, status, assertionResults }, isNamed) {
  const file = path.relative(ROOT, name);
  const hasPassed = (one) => one.status === 'passed' || (isNamed && one.status === 'pending');
  const names = assertionResults.filter((one) => !hasPassed(one)).map((one) => `${file}: ${one.fullName}`);
  return assertionResults.length === 0 && status !== 'passed' ? [`${file}: did not run`] : names;
}

/** Tests of Playwright's report, with those of suites inside, that did not pass. */
const failedInSuite = ({ specs = [], suites = [] }) => [
  ...specs
    .filter((spec) => spec.tests.some((one) => one.status !== 'expected'))
    .map(({ file, title }) => `e2e/${file}: ${title}`),
  ...suites.flatMap(failedInSuite),
];

const jest = (name, args, env = {}) =>
  counted(
    name,
    'jest',
    (result) => [...args, '--json', `--outputFile=${result}`],
    () => env,
    (json) => [json.numPassedTests, json.testResults.flatMap((one) => failedInFile(one, args.includes('-t')))],
  );

const playwright = (name, args) =>
  counted(
    name,
    'playwright',
    () => ['test', ...args, `--reporter=list,json,${path.join(ROOT, 'scripts/again-playwright.mjs')}`],
    (result) => ({ PLAYWRIGHT_JSON_OUTPUT_NAME: result }),
    ({ stats, errors, suites }) => [
      stats.expected,
      [...suites.flatMap(failedInSuite), ...errors.map(({ message }) => message)],
    ],
  );

/** Runs a program whose last line says `N passed, N failed`. */
async function program({ name, program: [file, ...args] }) {
  const own = file === 'torture' ? [bundleTorture()] : ['--import', 'tsx', file];
  const { isGood, text } = await run(process.execPath, [...own, ...args], { shows: 'both' });
  const counts = [...text.matchAll(/^(\d+) passed, (\d+) failed$/gm)].at(-1);
  if (!counts) return { passed: 0, failures: [`${name}: no result`] };
  const failures = Array.from({ length: Number(counts[2]) }, (_, i) => `${name}: failure ${i + 1}, see above`);
  if (!isGood && failures.length === 0) failures.push(`${name}: ended with an error`);
  return { passed: Number(counts[1]), failures };
}

/** Tests below src/ with a property in them. */
const withProperties = () =>
  readdirSync(path.join(ROOT, 'src'), { recursive: true })
    .filter((file) => file.endsWith('.test.ts'))
    .map((file) => path.join(ROOT, 'src', file))
    .filter((file) => readFileSync(file, 'utf8').includes('fc.assert'));

/**
 * Runs one part.
 * @param {import('./test-parts.mjs').Part} part
 * @returns {Promise<{ passed: number, failures: string[] }>}
 */
export function runPart(part) {
  switch (part.runner) {
    case 'checks':
      return checks();
    case 'playwright':
      return playwright(part.name, []);
    case 'program':
      return program(part);
    default: {
      const projects = ['--selectProjects', ...part.projects];
      const files = part.withProperties ? ['--runTestsByPath', ...withProperties()] : (part.files ?? []);
      return jest(part.name, [...projects, ...files], part.env);
    }
  }
}

/**
 * Runs single files, by the start of their path; `name` chooses tests in them.
 * @param {readonly string[]} files
 * @param {string | undefined} name
 */
export async function runFiles(files, name) {
  const results = [];
  const inBrowser = files.filter((file) => file.startsWith('e2e/'));
  const others = files.filter((file) => !file.startsWith('e2e/'));
  const escaped = name?.replace(/[\\^$.*+?()[\]{}|]/g, '\\$&');
  const add = (part, { passed, failures }) => results.push({ part: { name: part }, passed, failures, minutes: 0 });
  if (others.length > 0) add('files', await jest('files', [...others, ...(name ? ['-t', escaped] : [])]));
  if (inBrowser.length > 0)
    add('browser', await playwright('browser-files', [...inBrowser, ...(name ? ['-g', escaped] : [])]));
  return results;
}
