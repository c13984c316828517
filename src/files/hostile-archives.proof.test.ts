/** What is made to keep whoever unpacks it busy: it ends soon, with little memory, and says why. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import path from 'node:path';
import { HOSTILE_ARCHIVES, type HostileArchive } from '@tests/hostile-archives';
import { type Keeper, unpackFile } from './archives';
import { Sums } from './gathering';

/** What one of them may take: milliseconds (two seconds by itself, other tests run beside it), and bytes above what the process has. */
const TIME = 8000;
const MEMORY = 64 * 2 ** 20;

/** Lets go of what nobody holds: what remains is what is held. */
setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc') as () => void;

/** Keeps nothing but sums. */
const NOWHERE: Keeper = {
  async add(body) {
    const sums = new Sums();
    for await (const chunk of body) sums.add(chunk);
    return sums.kept;
  },
};

let folder: string;
beforeAll(() => (folder = mkdtempSync(path.join(tmpdir(), 'loess-hostile-'))));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** What is said of an archive, and the milliseconds that took. */
async function unpacked(file: string, length: number): Promise<{ said: string | undefined; time: number }> {
  const started = performance.now();
  const said = await unpackFile(file, length, NOWHERE, { leaveOut: false, keepsAll: true }).then(
    () => undefined,
    (error: Error) => error.message,
  );
  return { said, time: performance.now() - started };
}

test.each<HostileArchive>(HOSTILE_ARCHIVES)('%s', async (_, make, refused) => {
  const file = path.join(folder, 'archive');
  const bytes = make();
  writeFileSync(file, bytes);
  collect();
  const before = process.memoryUsage();
  const first = await unpacked(file, bytes.length);
  let { time } = first;
  collect();
  const after = process.memoryUsage();
  if (refused) expect(first.said).toMatch(refused);
  else expect(first.said).toBeUndefined();
  expect(after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers).toBeLessThan(MEMORY);
  // Other tests run beside it, and may make it wait.
  for (let again = 0; again < 2 && time > TIME; again++) ({ time } = await unpacked(file, bytes.length));
  expect(time).toBeLessThan(TIME);
});
