/** Archives that are made to keep their reader busy: each takes few steps and little memory, and is refused for its own reason. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { HOSTILE_ARCHIVES, type HostileArchive } from '@tests/hostile-archives';
import { type ArchiveResult, hostileResults, type HostileRun } from '@tests/hostile-results';

/** Most steps for one of them: about two seconds. */
const STEPS = 40_000_000;
/** Heap of the process that goes through all of them, with the program, in MiB. */
const HEAP = 256;

let folder: string;
let run: HostileRun<ArchiveResult>;
beforeAll(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-hostile-'));
  run = hostileResults(['archives', folder], HEAP);
});
afterAll(() => {
  run.end();
  rmSync(folder, { recursive: true, force: true });
});

test.each<HostileArchive>(HOSTILE_ARCHIVES)('%s', async (name, _make, refused) => {
  const { refusal, steps } = await run.of(name);
  if (refused) expect(refusal).toMatch(refused);
  else expect(refusal).toBeUndefined();
  expect(steps).toBeGreaterThan(0);
  expect(steps).toBeLessThan(STEPS);
});

test('their process ends as it should', async () => {
  expect(await run.exit).toBe(0);
});
