/**
 * mutants.ts [NUMBER …]: changes one line of the product at a time, in a copy of the clone, and runs the tests that must notice.
 * A change that no test notices is a failure. Two at a time.
 */
import { execFileSync, spawn } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { type Mutant, MUTANTS } from './mutant-list';

/** Copies all files that git knows of, as they are now, into a folder of their own. */
function copyOfClone(): string {
  const folder = mkdtempSync(path.join(tmpdir(), 'loess-mutants-'));
  const files = execFileSync('git', ['ls-files', '-z'], { encoding: 'utf8' }).split('\0').filter(Boolean);
  for (const file of files) {
    mkdirSync(path.dirname(path.join(folder, file)), { recursive: true });
    cpSync(file, path.join(folder, file));
  }
  symlinkSync(path.resolve('node_modules'), path.join(folder, 'node_modules'));
  return folder;
}

/** Processor seconds after which a run that does not end is ended: a changed line may loop without end. */
const MOST_CPU = 120;

/** Tests that failed; undefined where no test ran to its end. */
function failuresIn(folder: string, tests: readonly string[]): Promise<number | undefined> {
  const result = path.join(folder, 'result.json');
  rmSync(result, { force: true });
  const projects = ['--selectProjects', 'unit', 'server', 'proof'];
  const args = ['node_modules/.bin/jest', ...projects, '--silent', '--json', `--outputFile=${result}`];
  return new Promise((resolve) => {
    const limited = [`--cpu=${MOST_CPU}`, process.execPath, ...args, '--runTestsByPath', ...tests];
    const child = spawn('prlimit', limited, {
      cwd: folder,
      stdio: 'ignore',
      env: { ...process.env, LOESS_TIER: 'first' },
    });
    child.on('close', () => {
      try {
        const { numFailedTests, numTotalTests } = JSON.parse(readFileSync(result, 'utf8')) as Record<string, number>;
        resolve(numTotalTests === 0 ? undefined : numFailedTests);
      } catch {
        resolve(undefined);
      }
    });
  });
}

/** Makes the change in the copy, runs its tests, and takes it back. A sentence where it was not noticed. */
async function tried(folder: string, { file, from, to, tests }: Mutant): Promise<string | undefined> {
  const at = path.join(folder, file);
  const sound = readFileSync(at, 'utf8');
  if (sound.split(from).length !== 2) return `“${from}” does not stand once in ${file}`;
  writeFileSync(
    at,
    sound.replace(from, () => to),
  );
  const failures = await failuresIn(folder, tests);
  writeFileSync(at, sound);
  if (failures === undefined) return `${file}: “${from}” → “${to}”: ${tests.join(', ')} did not end`;
  return failures > 0 ? undefined : `${file}: “${from}” → “${to}” is noticed by none of ${tests.join(', ')}`;
}

async function main(chosen: readonly number[]): Promise<number> {
  const wanted = [...MUTANTS.entries()].filter(([n]) => chosen.length === 0 || chosen.includes(n + 1));
  const queue = wanted.values();
  const unnoticed: string[] = [];
  let done = 0;
  const work = async () => {
    const folder = copyOfClone();
    for (const [n, mutant] of queue) {
      const why = await tried(folder, mutant);
      done += 1;
      if (why !== undefined) unnoticed.push(why);
      console.log(`${done} of ${wanted.length}: mutant ${n + 1}, ${why ?? 'noticed'}`);
    }
    rmSync(folder, { recursive: true, force: true });
  };
  await Promise.all([work(), work()]);
  for (const one of unnoticed) console.log(`NOT NOTICED: ${one}`);
  console.log(`${wanted.length - unnoticed.length} passed, ${unnoticed.length} failed`);
  return unnoticed.length;
}

main(process.argv.slice(2).map(Number)).then(
  (failed) => process.exit(failed === 0 ? 0 : 1),
  (error: Error) => {
    console.error(error.stack);
    process.exit(1);
  },
);
