/** The thread that reads: what it answers, that it is ended where it does not, and that others get their answer all the same. */
import { readdirSync, readFileSync } from 'node:fs';
import { copyFile, type FileHandle, mkdtemp, open, rm, truncate, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Shelf } from '@tests/filled';
import { extOverNoise } from '@tests/ext';
import { until } from '@tests/until';
import { layoutKeeping } from '@/core/change/keep';
import { SourceShrank } from '@/core/bytes/blocks';
import { BudgetSpent } from '@/core/bytes/budget';
import { NoLongerAsked } from './orders';
import { Reading } from './reading';

let folder: string;
let from: string;
let handle: FileHandle;
const reading = new Reading();

const SIZE = 12 * 2 ** 20;

function image(): Uint8Array {
  const shelf = new Shelf();
  return extOverNoise({ version: 'ext4', bytes: SIZE }, [shelf.file('tide/ebb.csv', 7)], shelf);
}

beforeAll(async () => {
  folder = await mkdtemp(path.join(tmpdir(), 'loess-reading-'));
  from = path.join(folder, 'a.img');
  await writeFile(from, image());
  handle = await open(from);
});

afterAll(async () => {
  reading.end();
  await handle.close();
  await rm(folder, { recursive: true });
});

const file = () => ({ descriptor: handle.fd, size: SIZE, key: 'a' });

test('surveys, folders and paths are answered, many at a time', async () => {
  const [survey, root, entry, nowhere] = await Promise.all([
    reading.ask('survey', file(), { sectorSize: 512 }),
    reading.ask('folder', file(), { at: 0, folder: undefined }),
    reading.ask('entry', file(), { at: 0, path: 'tide/ebb.csv' }),
    reading.ask('entry', file(), { at: 0, path: 'tide/flow.csv' }),
  ]);
  expect(survey.partitions).toMatchObject([{ key: 'whole', inside: { kind: 'known', content: { name: 'ext4' } } }]);
  expect(root.entries.map(({ name, folder }) => [name, folder])).toEqual([
    ['tide', true],
    ['lost+found', true],
  ]);
  expect(entry).toMatchObject({ name: 'ebb.csv', size: 7 });
  expect(nowhere).toBeUndefined();
});

test('a change is thought out in a thread that lets others go first, with what a survey would find then', async () => {
  const background = Reading.inBackground();
  try {
    const survey = await background.ask('survey', file(), { sectorSize: 512 });
    const cleared = await background.ask('proposal', file(), { from, survey, wish: { does: 'clear' } });
    expect(cleared.words).toEqual(['Whole medium: ext4, Gauge köln.']);
    expect(cleared.plan.ranges.length).toBeGreaterThan(0);
    // A copy of its superblock is no mark of it, and stays.
    expect(cleared.after.partitions).toMatchObject([
      { key: 'whole', inside: { kind: 'zeros', lost: { what: 'ext' } } },
    ]);
    const mended = await background.ask('proposal', file(), { from, survey, wish: { does: 'repair' } });
    expect(mended).toMatchObject({ words: ['Nothing is to be mended.'], plan: { ranges: [], becomes: SIZE } });
    const nice = readdirSync('/proc/self/task').map((thread) =>
      Number(
        readFileSync(`/proc/self/task/${thread}/stat`, 'utf8')
          .replace(/^.*\) /, '')
          .split(' ')[16],
      ),
    );
    expect(nice.filter((one) => one === 10)).toHaveLength(1);
  } finally {
    background.end();
  }
});

test('a layout that keeps what is there changes nothing of it, and is refused on any other medium', async () => {
  const survey = await reading.ask('survey', file(), { sectorSize: 512 });
  const kept = layoutKeeping(survey, { name: 'Kept', date: '2026-03-01T12:00:00' });
  if (!kept.ok) throw new Error(kept.error);
  const asked = { from, survey, document: kept.value, store: path.join(folder, 'store') };
  const same = await reading.ask('alteration', file(), asked);
  expect(same).toMatchObject({ ok: true, value: { plan: { ranges: [], size: SIZE, becomes: SIZE } } });
  expect(same.ok && same.value.after).toEqual(survey);
  const document = { ...kept.value, found: { ...kept.value.found!, size: SIZE + 512 } };
  const other = await reading.ask('alteration', file(), { ...asked, document });
  expect(other).toMatchObject({
    ok: false,
    error: { isOther: true, lines: [expect.stringMatching(/^it has 12 MiB/)] },
  });
});

test('a change that nobody waits for any more is given up', async () => {
  // An image with much behind its volume, all of which is looked at before it is cut off.
  const image = path.join(folder, 'long.img');
  await copyFile(from, image);
  await truncate(image, 2 ** 40);
  const opened = await open(image);
  try {
    const long = { descriptor: opened.fd, size: 2 ** 40, key: 'long' };
    const survey = await reading.ask('survey', long, { sectorSize: 512 });
    let looks = 0;
    const asked = { from: 'of which no holes are known', survey, wish: { does: 'cut' } as const };
    const given = reading.ask('proposal', long, asked, () => ++looks < 3);
    await expect(given).rejects.toThrow(NoLongerAsked);
    // Where it is known that nothing lies there, it is not looked at.
    const { plan } = await reading.ask('proposal', long, { ...asked, from: image });
    expect(plan).toMatchObject({ ranges: [], becomes: SIZE });
  } finally {
    await opened.close();
  }
});

test('a file that became shorter, and a volume that is gone, reject with that', async () => {
  const longer = { ...file(), size: SIZE + 2 ** 20 };
  const asked = reading.ask('survey', longer, { sectorSize: 512 });
  await expect(asked).rejects.toThrow(SourceShrank);
  await expect(reading.ask('folder', file(), { at: 4 * 2 ** 20, folder: undefined })).rejects.toThrow(SourceShrank);
});

test('nothing is asked for who has left', async () => {
  const nowhere = { ...file(), descriptor: 999_999 };
  await expect(reading.ask('survey', nowhere, { sectorSize: 512 }, () => false)).rejects.toThrow(NoLongerAsked);
  await expect(reading.ask('survey', nowhere, { sectorSize: 512 })).rejects.toMatchObject({ code: 'EBADF' });
});

/** A thread that never answers what is asked with sectors of 4,096 bytes. */
const STUBBORN = `import { parentPort } from 'node:worker_threads';
parentPort.on('message', ({ id, asked }) => {
  while (asked?.sectorSize === 4096);
  setTimeout(() => parentPort.postMessage({ id, answer: 'an answer' }), 5);
});`;

describe('a thread that does not answer', () => {
  let hasty: Reading;
  let time = 0;

  beforeAll(async () => {
    const program = path.join(folder, 'stubborn.mjs');
    await writeFile(program, STUBBORN);
    hasty = new Reading(program, { answer: 500, end: 100, now: () => time });
  });

  afterAll(() => hasty.end());

  test('is ended: who held it up is given up, and what else was asked goes to the next', async () => {
    const first = hasty.ask('survey', file(), { sectorSize: 4096 });
    first.catch(() => undefined);
    time += 300;
    const second = hasty.ask('survey', file(), { sectorSize: 512 });
    time += 201;
    await expect(first).rejects.toThrow(BudgetSpent);
    await expect(second).resolves.toBe('an answer');
    await expect(hasty.ask('survey', file(), { sectorSize: 512 })).resolves.toBe('an answer');
  });

  test('that is ended answers nobody, and the next one is asked anew', async () => {
    const asked = hasty.ask('survey', file(), { sectorSize: 4096 });
    hasty.end();
    await expect(asked).rejects.toThrow(NoLongerAsked);
    await expect(hasty.ask('survey', file(), { sectorSize: 512 })).resolves.toBe('an answer');
  });

  test('is ended soon where nobody waits any more', async () => {
    let looks = 0;
    const left = hasty.ask('survey', file(), { sectorSize: 4096 }, () => ++looks < 2);
    await until(() => looks === 2);
    // Later than an unwanted order may be, and earlier than the answer of one that is wanted.
    time += 101;
    await expect(left).rejects.toThrow(NoLongerAsked);
    await expect(hasty.ask('survey', file(), { sectorSize: 512 })).resolves.toBe('an answer');
  });
});
