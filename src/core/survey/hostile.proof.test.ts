/** Media that are made to keep a reader busy: a survey, a listing and a walk of each take few steps and little memory, and stay in the medium. */
import { type Hostile, HOSTILE } from '@tests/hostile';
import { HOSTILE_EXT } from '@tests/hostile-ext';
import { hostileResults, type HostileRun, type MediumResult } from '@tests/hostile-results';

/** Most steps for one of them: about two seconds. */
const STEPS = 40_000_000;
/** Heap of the process that goes through all of them, with the program and the media, in MiB. */
const HEAP = 160;

let run: HostileRun<MediumResult>;
beforeAll(() => {
  run = hostileResults(['media'], HEAP);
});
afterAll(() => run.end());

test.each<Hostile>([...HOSTILE, ...HOSTILE_EXT])('%s', async (name) => {
  const { kinds, outside, steps } = await run.of(name);
  expect(outside).toBe(0);
  expect(steps).toBeGreaterThan(0);
  expect(steps).toBeLessThan(STEPS);
  // A medium that is not taken for what it is keeps no reader busy.
  const meant = /^an? (exFAT|NTFS|ext)/.exec(name)?.[1];
  if (meant) expect(kinds.map((kind) => kind.toLowerCase().replace(/\d$/, ''))).toEqual([meant.toLowerCase()]);
  if (/^a FAT.* (round|through|fro|themselves)/.test(name)) expect(kinds).toEqual(['fat']);
});

test('their process ends as it should', async () => {
  expect(await run.exit).toBe(0);
});
