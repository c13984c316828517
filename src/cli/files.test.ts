/** `files` and `examine` at the terminal: listing, fetching and checking volumes of images, which stay as they are. */
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { makeExt } from '@tests/ext';
import { JournalWriter } from '@tests/ext-journal';
import { overNoise, Shelf } from '@tests/filled';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { folderOfEachTest, loess } from '@tests/terminal';
import { writeLayout } from '@/core/layout/validate';
import { MIB } from '@/core/quantity/units';
import { EXIT } from './exit';

const { file } = folderOfEachTest();
const shelf = new Shelf();

/** An ext3 over a whole image; its journal is to be replayed where that is said. */
async function ext(isUnfinished = false): Promise<{ bytes: Uint8Array; content: Buffer }> {
  const entry = { ...shelf.file('tide/ebb.csv', 5000), mode: 0o640, user: 1000, group: 42 };
  const made = makeExt({ version: 'ext3', bytes: 24 * MIB, block: 1024 }, [
    entry,
    { kind: 'link', path: 'last', target: 'tide/ebb.csv' },
  ]);
  if (typeof made === 'string') throw new Error(made);
  const bytes = overNoise(
    24 * MIB,
    made.ranges.map(({ extent }) => extent),
    shelf,
  );
  if (isUnfinished)
    (await JournalWriter.of(bytes)).write({ sums: 'none', isLong: false }, [
      { writes: [[20_000, new Uint8Array(1024)]] },
    ]);
  writeFileSync(file('gauge.img'), bytes);
  return { bytes, content: Buffer.from(shelf.contents.get(entry.sha256)!) };
}

const sum = () =>
  createHash('sha256')
    .update(readFileSync(file('gauge.img')))
    .digest('hex');

test('a volume is listed and a file of it fetched, and the image stays as it is', async () => {
  const { content } = await ext(true);
  const before = sum();
  const root = await loess(['files', file('gauge.img')]);
  expect(root.exit).toBe(EXIT.done);
  expect(root.out).toMatch(/journal was replayed in memory: one transaction/);
  expect(root.out).toMatch(/0755 0:0 +tide\//);
  expect(root.out).toMatch(/last -> tide\/ebb\.csv/);
  const folder = await loess(['files', file('gauge.img'), '/tide/', '--json']);
  expect(folder.json()).toMatchObject({
    answer: 'files',
    kind: 'ext3',
    path: 'tide',
    entries: [{ name: 'ebb.csv', kind: 'file', size: 5000, owned: { mode: 0o640, user: 1000, group: 42, names: 1 } }],
  });
  const fetched = await loess(['files', file('gauge.img'), 'tide/ebb.csv', '--into', file('ebb.csv')]);
  expect(fetched.exit).toBe(EXIT.done);
  expect(readFileSync(file('ebb.csv')).equals(content)).toBe(true);
  const again = await loess(['files', file('gauge.img'), 'tide/ebb.csv', '--into', file('ebb.csv')]);
  expect(again).toMatchObject({ exit: EXIT.file, error: expect.stringContaining('it is there already') });
  expect(readdirSync(path.dirname(file('x'))).sort()).toEqual(['ebb.csv', 'gauge.img']);
  expect(sum()).toBe(before);
});

test('what cannot be fetched or found is refused by name', async () => {
  await ext();
  for (const [args, words] of [
    [['tide', '--into', file('x')], /is a folder; --into fetches one file/],
    [['last', '--into', file('x')], /is a link; --into fetches one file/],
    [['flow'], /There is no “flow” in Whole medium/],
    [['--partition', '4'], /has no partition “4”[^]*--partition whole +Whole medium: ext3/],
    [['tide/ebb.csv', '--into', file('none/x')], /there is no folder/],
  ] as const) {
    const { exit, error } = await loess(['files', file('gauge.img'), ...args]);
    expect([exit, error]).toEqual([expect.any(Number), expect.stringMatching(words)]);
    expect(exit).not.toBe(EXIT.done);
  }
});

test('of several volumes one has to be said, and what holds none says so', async () => {
  const layout = layoutOn(
    '64 MiB',
    [
      fatPart('e', '20 MiB', { variant: 16 }),
      fatPart('f', '20 MiB', { variant: 16, label: 'EBB', volumeId: '7A1D-0002' }),
      part('d', 'rest'),
    ],
    {
      table: GPT_TABLE,
    },
  );
  writeFileSync(file('tide.json'), writeLayout(layout));
  expect(await loess(['build', file('tide.json'), '--into', file('tide.img')])).toMatchObject({ exit: EXIT.done });
  const { exit, error } = await loess(['files', file('tide.img')]);
  expect(exit).toBe(EXIT.usage);
  expect(error).toMatch(/holds several; say which/);
  expect(error).toMatch(/--partition 2/);
  expect((await loess(['files', file('tide.img'), '--partition', '2'])).exit).toBe(EXIT.done);
  expect(await loess(['files', file('tide.img'), '--partition', '3'])).toMatchObject({
    exit: EXIT.usage,
    error: expect.stringMatching(/Partition 3 of .* holds no volume whose files can be listed/),
  });
  expect(await loess(['examine', file('tide.img')])).toMatchObject({
    exit: EXIT.usage,
    error: expect.stringContaining('holds no ext volume'),
  });
});

test('a sound volume is found sound, and a fault is told with its files', async () => {
  const { bytes } = await ext(true);
  const sound = await loess(['examine', file('gauge.img')]);
  expect(sound.exit).toBe(EXIT.done);
  expect(sound.out).toMatch(/3 folders and 2 files were looked at/);
  expect(sound.out).toContain('Nothing is amiss.');
  // One block of the file is that of another place.
  const found = Buffer.from(bytes).indexOf(shelf.contents.values().next().value!.subarray(0, 200));
  const at = found / 1024;
  const number = Buffer.alloc(4);
  number.writeUInt32LE(at);
  const pointer = Buffer.from(bytes).indexOf(number, 40 * 1024);
  bytes.set(Buffer.from([1, 0, 0, 0]), pointer);
  writeFileSync(file('gauge.img'), bytes);
  const { exit, out } = await loess(['examine', file('gauge.img'), '--partition', 'whole']);
  expect(exit).toBe(EXIT.stop);
  expect(out).toMatch(/map\/block twice[^]*tide\/ebb\.csv/);
  const json = (await loess(['examine', file('gauge.img'), '--json'])).json();
  expect(json).toMatchObject({ answer: 'examine', volumes: [{ partition: 'whole', isCutShort: false }] });
});
