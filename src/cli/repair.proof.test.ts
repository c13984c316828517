/** `repair` at the terminal: what would mend an image, and a new one that is mended; the old one stays as it is. */
import { createHash } from 'node:crypto';
import { closeSync, openSync, readFileSync, statSync, truncateSync, writeFileSync, writeSync } from 'node:fs';
import { GPT_TABLE, fatPart, layoutOn, part } from '@tests/samples';
import { folderOfEachTest, loess } from '@tests/terminal';
import type { Plan, PlannedRange } from '@/core/change/plan';
import { writeLayout } from '@/core/layout/validate';
import { MIB } from '@/core/quantity/units';
import { ImageChanged, writeChanged } from '@/files/changed-image';
import { EXIT } from './exit';

const { file } = folderOfEachTest();
const sumOf = (name: string) =>
  createHash('sha256')
    .update(readFileSync(file(name)))
    .digest('hex');

/** An image with a GPT that was built at the terminal. */
async function built(): Promise<void> {
  const layout = layoutOn('64 MiB', [fatPart('e', '20 MiB', { variant: 16 }), part('d', 'rest')], { table: GPT_TABLE });
  writeFileSync(file('tide.json'), writeLayout(layout));
  expect(await loess(['build', file('tide.json'), '--into', file('tide.img')])).toMatchObject({ exit: EXIT.done });
}

function put(name: string, at: number, bytes: Uint8Array | string): void {
  const descriptor = openSync(file(name), 'r+');
  writeSync(descriptor, Buffer.from(bytes), 0, undefined, at);
  closeSync(descriptor);
}

test('nothing is to be mended in a sound image, and none is made', async () => {
  await built();
  const { exit, out, error } = await loess(['repair', file('tide.img'), '--into', file('new.img')]);
  expect(exit).toBe(EXIT.done);
  expect(out).toContain('Nothing is to be mended.');
  expect(error).toContain('no image was made');
  expect(statSync(file('new.img'), { throwIfNoEntry: false })).toBeUndefined();
});

test('a damaged header is shown field by field, and the mended image is the one that was built', async () => {
  await built();
  const sound = sumOf('tide.img');
  put('tide.img', 512 + 56, 'damaged');
  const damaged = sumOf('tide.img');
  const shown = await loess(['repair', file('tide.img')]);
  expect(shown.exit).toBe(EXIT.risk);
  expect(shown.out).toContain('first-gpt: Write the first GPT from its copy');
  expect(shown.out).toMatch(/sector 1, GPT header: diskId: \S+ becomes 6d617272-616d-4c0a-8d05-7469646573aa/);
  expect(shown.out).toContain('Found afterwards:\nnothing\n');
  const made = await loess(['repair', file('tide.img'), '--into', file('new.img'), '--json']);
  expect(made.exit).toBe(EXIT.done);
  expect(made.json()).toMatchObject({
    repairs: [{ id: 'first-gpt', rules: ['found-gpt/first-copy-bad'] }],
    ranges: [{ what: 'GPT header', offset: 512, length: 512 }],
    left: [],
    image: file('new.img'),
  });
  expect(sumOf('new.img')).toBe(sound);
  expect(sumOf('tide.img')).toBe(damaged);
  // What was a hole is one.
  expect(statSync(file('new.img')).blocks * 512).toBeLessThan(8 * MIB);
  // The image itself is never written, and another only where that is said.
  const itself = await loess(['repair', file('tide.img'), '--into', file('tide.img'), '--replace']);
  expect(itself).toMatchObject({ exit: EXIT.usage, error: expect.stringContaining('in its place') as string });
  expect(sumOf('tide.img')).toBe(damaged);
  expect(await loess(['repair', file('tide.img'), '--into', file('new.img')])).toMatchObject({ exit: EXIT.file });
});

test('an image that went onto a larger medium gets its copy at the end', async () => {
  await built();
  truncateSync(file('tide.img'), 100 * MIB);
  const { exit, out } = await loess(['repair', file('tide.img'), '--into', file('new.img')]);
  expect(exit).toBe(EXIT.done);
  expect(out).toContain('gpt-to-end: Bring the copy of the GPT to the end of the medium');
  expect((await loess(['survey', file('new.img')])).out).toContain('Nothing was found.');
});

test('what cannot be mended ends with a stop, and an unknown repair is told', async () => {
  await built();
  put('tide.img', 512 + 56, 'damaged');
  put('tide.img', 64 * MIB - 512 + 56, 'damaged');
  const { exit, out } = await loess(['repair', file('tide.img')]);
  expect(exit).toBe(EXIT.stop);
  expect(out).toContain('first-gpt: cannot be done: the copy at the end cannot be believed either.');
  const unknown = await loess(['repair', file('tide.img'), '--only', 'everything']);
  expect(unknown).toMatchObject({ exit: EXIT.usage, error: expect.stringContaining('first-gpt, gpt-copy') as string });
});

test('a plan is refused where the image is not what it was made of, and nothing is left', async () => {
  writeFileSync(file('a.img'), Buffer.alloc(4096, 7));
  const job = {
    from: file('a.img'),
    path: file('b.img'),
    temporary: file('b.part'),
    isNew: true,
    signal: new AbortController().signal,
    onProgress: () => undefined,
  };
  const after = new Uint8Array(16).fill(9);
  const sumOf = (byte: number) => createHash('sha256').update(new Uint8Array(16).fill(byte)).digest('hex');
  const range = {
    what: 'a range',
    extent: { offset: 100, bytes: after },
    head: new Uint8Array(16).fill(7),
    sum: sumOf(7),
  };
  const planOf = (size: number, ...ranges: PlannedRange[]): Plan => ({ size, becomes: size, ranges });
  await expect(writeChanged({ ...job, plan: planOf(8192, range) })).rejects.toThrow(ImageChanged);
  const other = { ...range, sum: sumOf(0) };
  await expect(writeChanged({ ...job, plan: planOf(4096, other) })).rejects.toThrow('“a range” at byte 100');
  expect(statSync(file('b.part'), { throwIfNoEntry: false })).toBeUndefined();
  const report = await writeChanged({ ...job, plan: planOf(4096, range) });
  expect(report).toMatchObject({ size: 4096, changed: 16, equal: 4080, zeros: 0 });
  expect([...readFileSync(file('b.img')).subarray(99, 117)]).toEqual([7, ...after, 7]);
  const cut = new AbortController();
  cut.abort();
  const aborted = writeChanged({ ...job, path: file('c.img'), plan: planOf(4096), signal: cut.signal });
  await expect(aborted).rejects.toThrow();
  expect(statSync(file('b.part'), { throwIfNoEntry: false })).toBeUndefined();
});

test('which FAT is believed is asked for, and never chosen', async () => {
  await built();
  const sound = sumOf('tide.img');
  // FAT 2 of the FAT16 in the first MiB: its last sector.
  const head = readFileSync(file('tide.img')).subarray(MIB, MIB + 512);
  const [reserved, length] = [head.readUInt16LE(14), head.readUInt16LE(22)];
  put('tide.img', MIB + (reserved + 2 * length - 1) * 512 + 8, 'other');
  const shown = await loess(['repair', file('tide.img')]);
  expect(shown.exit).toBe(EXIT.done);
  expect(shown.out).toContain('Nothing is to be mended.');
  expect(shown.out).toContain('fats-from-second: Believe the second FAT, and write the first from it');
  const made = await loess([
    'repair',
    file('tide.img'),
    '--only',
    'fats-from-first',
    '--into',
    file('new.img'),
    '--json',
  ]);
  expect(made.json()).toMatchObject({
    repairs: [{ id: 'fats-from-first', says: [expect.stringMatching(/^No file or folder/)] }],
    onRequest: [],
    ranges: [{ what: 'FAT 2 of Partition 1, e', length: 512 }],
  });
  expect(sumOf('new.img')).toBe(sound);
});
