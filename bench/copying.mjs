/**
 * References of the filling benches, as processes of their own.
 *   one LIST FILE     reads every file of the list and writes one file in equal chunks, with one fsync
 *   folder LIST DIR   reads every file of the list and writes it into its folder, with one sync
 * Prints milliseconds, from the first read to the end of the sync.
 */
import { execFileSync } from 'node:child_process';
import { closeSync, fsyncSync, mkdirSync, openSync, readFileSync, readSync, writeFileSync, writeSync } from 'node:fs';
import path from 'node:path';

const CHUNK = 1024 * 1024;
const [mode, listFile, target] = process.argv.slice(2);
/** Lines of the list: source, and path in the volume. */
const list = readFileSync(listFile, 'utf8')
  .trim()
  .split('\n')
  .map((line) => line.split('\t'));

const started = performance.now();
if (mode === 'one') {
  const out = openSync(target, 'wx');
  const buffer = Buffer.allocUnsafeSlow(CHUNK);
  for (const [source] of list) {
    const file = openSync(source, 'r');
    for (;;) {
      const read = readSync(file, buffer, 0, CHUNK, null);
      if (read === 0) break;
      writeSync(out, buffer, 0, read);
    }
    closeSync(file);
  }
  fsyncSync(out);
  closeSync(out);
} else {
  const made = new Set();
  for (const [source, name] of list) {
    const file = path.join(target, name);
    const folder = path.dirname(file);
    if (!made.has(folder)) mkdirSync(folder, { recursive: true });
    made.add(folder);
    writeFileSync(file, readFileSync(source));
  }
  execFileSync('sync', ['-f', target]);
}
console.log(performance.now() - started);
