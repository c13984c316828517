/**
 * `npm test`: sets up what is missing, runs the parts of the first tier, and ends with what failed, if anything did, and one
 * line that counts. `npm run test:deep`: the parts of the second tier, with a new seed.
 *
 *   npm test -- unit browser               these parts
 *   npm test -- src/core/bytes e2e/ext     these files, by the start of their path; e2e/ext.spec.ts:12 names a line
 *   --name TEXT                            with files: the tests of that name
 *   --seed N                               the seed of everything generated
 *   --record                               keeps the time of each part for the table in CONTRIBUTING.md
 */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { buildApplication, bundleTerminal, CACHE, installDependencies, installTestMachines, ROOT } from './prepare.mjs';
import { PARTS } from './test-parts.mjs';
import { ended, runFiles, runPart } from './test-runners.mjs';

process.chdir(ROOT);

/** The seed of `npm test`; `tests/tier.ts` has the same. */
const SEED = 20_260_301;
const TIMES = path.join(ROOT, 'tests', 'part-times.json');

function usage(sentence) {
  console.error(sentence);
  process.exit(2);
}

function options() {
  try {
    return parseArgs({
      allowPositionals: true,
      options: {
        deep: { type: 'boolean', default: false },
        name: { type: 'string' },
        seed: { type: 'string' },
        record: { type: 'boolean', default: false },
      },
    });
  } catch (error) {
    return usage(error.message);
  }
}

const { values, positionals } = options();
const tier = values.deep ? 'deep' : 'first';
const seed = Number(values.seed ?? (values.deep ? Math.floor(Math.random() * 2 ** 31) : SEED));
if (!Number.isSafeInteger(seed)) usage(`“${values.seed}” is no seed: give a whole number.`);
process.env.LOESS_TIER = tier;
process.env.LOESS_SEED = String(seed);

const parts = PARTS.filter((part) => part.tier === tier);
const isFile = (text) => text.includes('/');
const files = positionals.filter(isFile);
const names = positionals.filter((text) => !isFile(text));
const unknown = names.filter((name) => !parts.some((part) => part.name === name));
if (unknown.length > 0)
  usage(`No such part: ${unknown.join(', ')}. Parts are ${parts.map(({ name }) => name).join(', ')}.`);
if (files.length > 0 && names.length > 0) usage('Name parts or files, not both.');
if (values.name !== undefined && files.length === 0) usage('--name goes with the path of a file.');

const wanted = files.length > 0 ? [] : parts.filter(({ name }) => names.length === 0 || names.includes(name));
console.log(`Tier: ${tier}. Seed: ${seed}.`);

/** Prepares what these parts need; nothing is done twice. */
async function prepare(needs) {
  installDependencies();
  if (needs.has('debian')) installTestMachines();
  if (needs.has('application')) buildApplication();
  if (needs.has('terminal')) bundleTerminal();
}

const results = [];

/** Prints what ran, what did not, and the line that counts; ends with the exit code. */
function finish() {
  const notRun = wanted.filter((part) => !results.some(({ part: done }) => done === part));
  if (results.length > 1 || notRun.length > 0) {
    console.log('');
    for (const { part, minutes, passed, failures } of results)
      console.log(
        `${part.name.padEnd(20)} ${minutes.toFixed(1).padStart(6)} min ${passed} passed, ${failures.length} failed`,
      );
    for (const part of notRun) console.log(`${part.name.padEnd(20)} DID NOT RUN`);
  }
  const failures = results.flatMap((one) => one.failures);
  for (const one of failures) console.log(`FAILED: ${one}`);
  if (failures.length > 0) console.log(`Seed: ${seed}.`);
  console.log(`${results.reduce((sum, one) => sum + one.passed, 0)} passed, ${failures.length + notRun.length} failed`);
  process.exit(failures.length + notRun.length === 0 ? 0 : 1);
}

function record() {
  const times = JSON.parse(readFileSync(TIMES, 'utf8'));
  for (const { part, minutes } of results) times[part.name] = Number(minutes.toFixed(1));
  writeFileSync(TIMES, `${JSON.stringify(times, null, 2)}\n`);
}

mkdirSync(CACHE, { recursive: true });
if (files.length > 0) {
  await prepare(
    new Set(['debian', 'terminal', ...(files.some((file) => file.startsWith('e2e/')) ? ['application'] : [])]),
  );
  results.push(...(await runFiles(files, values.name)));
} else
  for (const part of wanted) {
    if (ended()) break;
    await prepare(new Set(part.needs));
    console.log(`\n== ${part.name}: ${part.what}`);
    const started = Date.now();
    const { passed, failures } = await runPart(part);
    if (ended()) break;
    results.push({ part, passed, failures, minutes: (Date.now() - started) / 60_000 });
  }
if (values.record && !ended()) record();
finish();
