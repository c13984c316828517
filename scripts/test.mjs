/**
 * `npm test`: sets up what is missing, runs the house rules and all tests, and ends with what
 * failed, if anything did, and one line that counts them. `npm test unit` and the like run one part alone.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import {
  bin,
  buildApplication,
  bundleTerminal,
  bundleTorture,
  CACHE,
  installDependencies,
  installTestMachines,
  ROOT,
} from './prepare.mjs';

process.chdir(ROOT);
const PARTS = ['house', 'unit', 'proof', 'torture', 'machine', 'browser'];
const wanted = process.argv.slice(2);
const unknown = wanted.filter((part) => !PARTS.includes(part));
if (unknown.length > 0) {
  console.error(`No such part: ${unknown.join(', ')}. Parts are ${PARTS.join(', ')}.`);
  process.exit(2);
}
const runs = (part) => wanted.length === 0 || wanted.includes(part);

let passed = 0;
let failed = 0;
/** What failed, one line each, told again at the end where a long run is read. */
const failures = [];

function run(program, args, env = {}) {
  const { status } = spawnSync(bin(program), args, { stdio: 'inherit', env: { ...process.env, ...env } });
  return status === 0;
}

/** Runs a program beside others; resolves with whether it went well, and with all that it said. */
function runBeside(program, args) {
  return new Promise((resolve) => {
    const child = spawn(bin(program), args, { env: { ...process.env, FORCE_COLOR: process.stdout.isTTY ? '1' : '0' } });
    let text = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => (text += chunk));
    child.on('error', (error) => resolve({ isGood: false, text: `${error.message}\n` }));
    child.on('close', (status) => resolve({ isGood: status === 0, text }));
  });
}

/** The house rules, two at a time as there are cores; what each says is printed in one piece. */
async function houseRules() {
  const waiting = [...HOUSE_RULES];
  const work = async () => {
    for (let next = waiting.shift(); next; next = waiting.shift()) {
      const [name, program, args] = next;
      const { isGood, text } = await runBeside(program, args);
      process.stdout.write(text);
      count(isGood, name);
    }
  };
  await Promise.all([work(), work()]);
}

function count(isGood, name) {
  if (isGood) passed += 1;
  else {
    failed += 1;
    failures.push(name);
  }
}

// What was looked at before and has not changed is not looked at again; a clean checkout looks at everything.
const HOUSE_RULES = [
  [
    'lint',
    'eslint',
    ['.', '--max-warnings=0', '--cache', '--cache-location', '.cache/eslint/', '--cache-strategy', 'content'],
  ],
  ['types', 'tsc', ['--noEmit', '--incremental', '--tsBuildInfoFile', '.cache/types.tsbuildinfo']],
  ['layers and circles', 'depcruise', ['src', '--output-type', 'err']],
  ['formatting', 'prettier', ['--check', '--log-level=warn', '--cache', '--cache-location', '.cache/prettier', '.']],
  [
    'dead code',
    'ts-unused-exports',
    [
      'tsconfig.json',
      '--allowUnusedTypes',
      '--excludePathsFromReport=src/app;config.ts;e2e/setup.ts;machine/setup.ts;tests/again.ts;tests/environment.ts;tests/workers.mjs',
    ],
  ],
];

/** Runs a test runner that writes its counts as JSON; a run without a result is one failure. */
function counted(name, program, args, env, read) {
  const result = path.join(CACHE, `${name}.json`);
  mkdirSync(CACHE, { recursive: true });
  rmSync(result, { force: true });
  const isGood = run(program, [...args(result)], env(result));
  if (!existsSync(result)) {
    count(false, `${name}: no result`);
    return;
  }
  const [good, names] = read(JSON.parse(readFileSync(result, 'utf8')));
  const bad = names.length;
  passed += good;
  failed += bad;
  failures.push(...names.map((one) => `${name}: ${one}`));
  if (!isGood && bad === 0) count(false, `${name}: ended with an error`);
  if (good === 0) count(false, `${name}: ran no test`);
}

function jest(project) {
  counted(
    project,
    'jest',
    (result) => ['--selectProjects', project, '--json', `--outputFile=${result}`],
    () => ({}),
    (json) => [json.numPassedTests, json.testResults.flatMap(failedInFile)],
  );
}

/** Tests of a file of Jest's that did not pass, each with its file; a file that did not run is one. */
function failedInFile({ name, status, assertionResults }) {
  const file = path.relative(ROOT, name);
  const names = assertionResults.filter((one) => one.status !== 'passed').map((one) => `${file}: ${one.fullName}`);
  return names.length === 0 && status !== 'passed' ? [`${file}: did not run`] : names;
}

/** Tests of Playwright's report, with those of suites inside, that did not pass at once. */
const failedInSuite = ({ specs = [], suites = [] }) => [
  ...specs
    .filter((spec) => spec.tests.some((one) => one.status !== 'expected'))
    .map(({ file, title }) => `e2e/${file}: ${title}`),
  ...suites.flatMap(failedInSuite),
];

/** So many rounds of ill-treating a data folder; `npm run torture` has many more. */
const ROUNDS = 40;

function torture() {
  const args = [bundleTorture(), String(ROUNDS)];
  const { stdout } = spawnSync(process.execPath, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'inherit'] });
  process.stdout.write(stdout);
  const counts = /^(\d+) rounds, (\d+) wrong/m.exec(stdout);
  if (!counts) return count(false, 'torture: no result');
  passed += counts[1] - counts[2];
  failed += Number(counts[2]);
  if (counts[2] !== '0') failures.push(`torture: ${counts[2]} rounds`);
}

installDependencies();
if (runs('proof') || runs('machine') || runs('browser')) installTestMachines();
// The build makes type declarations that the house rules need.
if (runs('house') || runs('browser')) buildApplication();
if (runs('house')) await houseRules();
if (runs('unit')) jest('unit');
// Made before several tests would make it at once.
if (runs('proof')) bundleTerminal();
if (runs('proof')) jest('proof');
if (runs('torture')) torture();
if (runs('machine')) jest('machine');
if (runs('browser')) {
  counted(
    'browser',
    'playwright',
    () => ['test', '--reporter=list,json'],
    (result) => ({ PLAYWRIGHT_JSON_OUTPUT_NAME: result }),
    ({ stats, errors, suites }) => [
      stats.expected,
      [...suites.flatMap(failedInSuite), ...errors.map(({ message }) => message)],
    ],
  );
}

for (const one of failures) console.log(`FAILED: ${one}`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
