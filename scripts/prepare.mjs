/**
 * Set-up steps that are skipped when nothing changed since they last worked. Plain JavaScript
 * without dependencies, because it runs before there are any.
 */
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { CHROMIUM } from './chromium.mjs';

export const ROOT = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
export const CACHE = path.join(ROOT, '.cache');

/** Where a local program of node_modules lies. */
export function bin(name) {
  return path.join(ROOT, 'node_modules', '.bin', name);
}

function filesBelow(place) {
  const found = statSync(place, { throwIfNoEntry: false });
  if (!found) return [];
  if (found.isFile()) return [place];
  return readdirSync(place, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => path.join(entry.parentPath, entry.name))
    .sort();
}

function fingerprint(texts) {
  const hash = createHash('sha256');
  for (const text of texts) hash.update(text).update('\0');
  return hash.digest('hex');
}

/** Runs `work` unless it was done before with the same fingerprint and `result` still exists. */
function once(name, print, result, work) {
  const stamp = path.join(CACHE, `${name}.stamp`);
  if (existsSync(result) && existsSync(stamp) && readFileSync(stamp, 'utf8') === print) return;
  work();
  mkdirSync(CACHE, { recursive: true });
  writeFileSync(stamp, print);
}

function run(program, args, env = {}) {
  const { status } = spawnSync(program, args, { cwd: ROOT, stdio: ['ignore', 2, 2], env: { ...process.env, ...env } });
  if (status === 0) return;
  console.error(`“${path.basename(program)} ${args.join(' ')}” failed; what it said stands above.`);
  process.exit(1);
}

/** Installs the dependencies when package.json or the lock changed in what they depend on. */
export function installDependencies() {
  const manifest = JSON.parse(readFileSync(path.join(ROOT, 'package.json'), 'utf8'));
  const { dependencies, devDependencies, overrides } = manifest;
  const lock = readFileSync(path.join(ROOT, 'package-lock.json'));
  const print = fingerprint([JSON.stringify({ dependencies, devDependencies, overrides }), lock, process.version]);
  once('dependencies', print, path.join(ROOT, 'node_modules', 'next'), () => {
    console.error('Installing the dependencies: two to three minutes, once.');
    const npm = process.env.npm_execpath;
    const args = ['ci', '--include=dev', '--no-audit', '--no-fund'];
    if (npm) run(process.execPath, [npm, ...args]);
    else run('npm', args);
  });
}

const BUILT_FROM = ['src', 'public', 'next.config.ts', 'postcss.config.mjs', 'tsconfig.json', 'package-lock.json'];

/** Where the built server program lies. */
export const SERVER = path.join(ROOT, 'build', 'server.mjs');

/** Builds the web application and the server program when their sources changed. */
export function buildApplication() {
  const files = BUILT_FROM.flatMap((name) => filesBelow(path.join(ROOT, name))).filter(
    (file) => !/\.test\.tsx?$/.test(file),
  );
  const print = fingerprint(files.flatMap((file) => [path.relative(ROOT, file), readFileSync(file)]));
  once('application', print, path.join(ROOT, '.next', 'BUILD_ID'), () => {
    console.error('Building the application: about a minute, when its sources changed.');
    run(bin('next'), ['build'], { NEXT_TELEMETRY_DISABLED: '1' });
    bundleServer();
  });
}

const BUNDLE = ['--bundle', '--platform=node', '--format=esm', '--target=node20', '--log-level=warning'];

/** Where the programs of the threads lie that write images, and read what others wrote. */
const WRITE_WORKER = path.join(ROOT, 'build', 'write-worker.mjs');
const READ_WORKER = path.join(ROOT, 'build', 'read-worker.mjs');

/** What tells the present sources from others: where they lie, and when they were changed. */
function timesOf(names) {
  const files = names.flatMap((name) => filesBelow(path.join(ROOT, name)));
  const sources = files.filter((file) => !/\.test\.tsx?$/.test(file));
  return fingerprint(sources.map((file) => `${path.relative(ROOT, file)} ${statSync(file).mtimeMs}`));
}

/** Bundles the programs of worker threads when their sources changed. */
export function bundleWorkers() {
  once('workers', timesOf(['src/files', 'src/core/bytes']), WRITE_WORKER, () =>
    run(bin('esbuild'), ['src/files/write-worker.ts', ...BUNDLE, `--outfile=${WRITE_WORKER}`]),
  );
  once('readers', timesOf(['src/files', 'src/core']), READ_WORKER, () =>
    run(bin('esbuild'), ['src/files/reading/read-worker.ts', ...BUNDLE, `--outfile=${READ_WORKER}`]),
  );
}

/** Bundles the server program alone. */
export function bundleServer() {
  bundleWorkers();
  run(bin('esbuild'), ['src/server/main.ts', ...BUNDLE, '--packages=external', `--outfile=${SERVER}`]);
}

/** Bundles the measurements; returns where they lie. */
export function bundleBench() {
  bundleWorkers();
  const file = path.join(ROOT, 'build', 'bench.mjs');
  run(bin('esbuild'), ['bench/main.ts', ...BUNDLE, '--packages=external', `--outfile=${file}`]);
  return file;
}

/** Bundles the program that ill-treats data folders; returns where it lies. */
export function bundleTorture() {
  bundleWorkers();
  const file = path.join(ROOT, 'build', 'torture.mjs');
  run(bin('esbuild'), ['torture/main.ts', ...BUNDLE, '--packages=external', `--outfile=${file}`]);
  return file;
}

/** Where the terminal program lies: it needs nothing but the programs of worker threads, and the database where that is asked for. */
const TERMINAL = path.join(ROOT, 'build', 'terminal', 'main.cjs');

/** Bundles the terminal program when its sources changed, and keeps what the engine compiles of it. */
export function bundleTerminal() {
  bundleWorkers();
  const sources = timesOf(['src/cli', 'src/core', 'src/files', 'src/keeping', 'bin', 'package-lock.json']);
  once('terminal', `${sources} ${process.version}`, TERMINAL, () => {
    console.error('Bundling the terminal program: a few seconds, when its sources changed.');
    rmSync(path.dirname(TERMINAL), { recursive: true, force: true });
    run(bin('esbuild'), [
      'src/cli/main.ts',
      '--bundle',
      '--platform=node',
      // One file that the engine can keep compiled; parts of it still begin when they are needed.
      '--format=cjs',
      '--target=node20',
      '--log-level=warning',
      '--minify',
      '--external:@libsql/client',
      // Its other form asks for parts by names that no bundle can follow.
      '--alias:jsonc-parser=jsonc-parser/lib/esm/main.js',
      `--outfile=${TERMINAL}`,
    ]);
    // Without it the program runs all the same.
    const warm = ['scripts/warm-terminal.mjs', TERMINAL, 'demo/gauge-logger.json'];
    spawnSync(process.execPath, warm, { cwd: ROOT, stdio: ['ignore', 'ignore', 2] });
  });
}

const DEBIAN = {
  'chromium-headless-shell': CHROMIUM,
  'qemu-system-x86': '/usr/bin/qemu-system-x86_64',
  zsh: '/usr/bin/zsh',
  fish: '/usr/bin/fish',
  curl: '/usr/bin/curl',
  'xz-utils': '/usr/bin/xz',
};

/** Installs the Debian packages that the tests need, or says which are missing and ends the process. */
export function installTestMachines() {
  const missing = Object.entries(DEBIAN)
    .filter(([, file]) => !existsSync(file))
    .map(([name]) => name);
  if (missing.length === 0) return;
  const isRoot = process.getuid?.() === 0;
  if (isRoot && existsSync('/usr/bin/apt-get')) {
    console.error(`Installing Debian packages: ${missing.join(', ')}.`);
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    spawnSync('apt-get', ['update', '-q'], { stdio: ['ignore', 'ignore', 2], env });
    spawnSync('apt-get', ['install', '-y', '-q', '--no-install-recommends', ...missing], {
      stdio: ['ignore', 'ignore', 2],
      env,
    });
  }
  const still = missing.filter((name) => !existsSync(DEBIAN[name]));
  if (still.length === 0) return;
  console.error(`Missing Debian packages: ${still.join(', ')}. Install them, then run the tests again.`);
  process.exit(1);
}
