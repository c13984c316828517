/** Writing extents: what lies in the file afterwards, whoever wrote it; and what is said when it goes wrong. */
import { until } from '@tests/until';
import { MIB } from '@/core/quantity/units';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { type FileHandle, open } from 'node:fs/promises';
import { once } from 'node:events';
import { tmpdir } from 'node:os';
import { Worker } from 'node:worker_threads';
import { crc32 } from 'node:zlib';
import { Coverage, type Extent } from '@/core/bytes/extents';
import { type Trouble, Turn } from './block-writer';
import { writeExtents, type WriteOptions } from './image-writer';
import path from 'node:path';

let folder: string;
let handle: FileHandle;
const image = () => path.join(folder, 'image');

beforeEach(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'writing-'));
  handle = await open(image(), 'wx+');
});
afterEach(async () => {
  await handle.close();
  rmSync(folder, { recursive: true });
});

function stored(name: string, size: number): Buffer {
  const bytes = randomBytes(size);
  writeFileSync(path.join(folder, name), bytes);
  return bytes;
}

function write(extents: readonly Extent[], over: Partial<WriteOptions> = {}) {
  const covered = new Coverage();
  const reported: number[] = [];
  const troubles: Trouble[] = [];
  const written = writeExtents(extents, {
    handle,
    written: covered,
    fileOf: (name) => path.join(folder, name),
    onWritten: (bytes) => reported.push(bytes),
    checkpoint: () => undefined,
    failed: (trouble) => {
      troubles.push(trouble);
      return new Error(trouble.kind);
    },
    ...over,
  });
  return { written, covered, reported, troubles };
}

/** Pieces of two files, literal bytes and small zeros side by side; `size` bytes of stored content. */
function mixed(size: number): { extents: Extent[]; meant: Buffer } {
  const [a, b] = [stored('a', size), stored('b', 70_001)];
  const literal = randomBytes(700_003);
  const meant = Buffer.alloc(size + 900_000 + 70_001);
  literal.copy(meant, 512);
  a.copy(meant, 700_515, 100);
  b.copy(meant, 700_515 + size - 100 + 37);
  const at = 700_515 + size - 100;
  return {
    meant,
    extents: [
      { offset: 512, bytes: literal },
      { offset: 700_515, copied: { from: 'a', at: 100, length: size - 100 } },
      { offset: at, zeros: 37 },
      { offset: at + 37, copied: { from: 'b', at: 0, length: 70_001 } },
      { offset: at + 37 + 70_001, zeros: 9000 },
    ],
  };
}

test.each([
  ['here', 300_000],
  ['by threads', 40 * MIB + 11],
])('written %s: every byte where it belongs, the rest of the file a hole', async (_, size) => {
  const { extents, meant } = mixed(size);
  await handle.truncate(meant.length);
  const { written, covered, reported } = write(extents);
  const total = 700_003 + size - 100 + 37 + 70_001;
  expect(await written).toBe(total);
  expect(reported.reduce((a, b) => a + b)).toBe(total);
  expect(readFileSync(image()).equals(meant)).toBe(true);
  expect(covered.touches(0, 512)).toBe(false);
  expect(covered.touches(512, total)).toBe(true);
  expect(covered.touches(512 + total, 9000)).toBe(false);
});

test('thousands of small pieces go by threads too, and each keeps its place', async () => {
  const bytes = stored('many', MIB);
  const extents = Array.from({ length: 3000 }, (_, i): Extent => ({
    offset: i * 1024,
    copied: { from: 'many', at: (i * 7919) % (MIB - 300), length: 300 },
  }));
  expect(await write(extents).written).toBe(900_000);
  const found = readFileSync(image());
  for (const extent of extents) {
    const { at } = (extent as { copied: { at: number } }).copied;
    expect(found.subarray(extent.offset, extent.offset + 300).equals(bytes.subarray(at, at + 300))).toBe(true);
  }
});

test.each([
  ['here', 1_000_003],
  ['by threads', 40 * MIB + 3],
])('copies whose sum is known are compared with it, written %s', async (_, size) => {
  const [large, small] = [stored('large', size), stored('small', 3000)];
  const extents = (sum: number, other: number): Extent[] => [
    { offset: 100, copied: { from: 'small', at: 0, length: 3000, crc32: other } },
    { offset: 3100, copied: { from: 'large', at: 0, length: size, crc32: sum } },
  ];
  expect(await write(extents(crc32(large), crc32(small))).written).toBe(size + 3000);
  for (const [sum, other, file] of [
    [crc32(large) ^ 1, crc32(small), 'large'],
    [crc32(large), crc32(small) ^ 1, 'small'],
  ] as const) {
    const { written, troubles } = write(extents(sum >>> 0, other >>> 0));
    await expect(written).rejects.toThrow('changed');
    expect(troubles).toContainEqual({ kind: 'changed', file: path.join(folder, file), at: 0 });
  }
});

test.each([
  ['here', MIB],
  ['by threads', 48 * MIB],
])('stored content that is gone or too short is reported, written %s', async (_, size) => {
  stored('a', size);
  const copied = (from: string): Extent => ({ offset: 0, copied: { from, at: 0, length: size } });
  const gone = write([copied('nowhere')]);
  await expect(gone.written).rejects.toThrow('gone');
  expect(gone.troubles[0]).toEqual({ kind: 'gone', file: path.join(folder, 'nowhere') });
  truncateSync(path.join(folder, 'a'), size - 1000);
  const short = write([copied('a')]);
  await expect(short.written).rejects.toThrow('short');
  expect(short.troubles[0]).toEqual({
    kind: 'short',
    at: size - 128 * 1024,
    file: path.join(folder, 'a'),
    wanted: size,
    end: size - 1000,
  });
});

test.each([
  ['here', MIB],
  ['by threads', 48 * MIB],
])('what the system refuses comes with its code, written %s', async (_, size) => {
  stored('a', size);
  const reading = await open(path.join(folder, 'a'), 'r');
  const { written } = write([{ offset: 0, copied: { from: 'a', at: 0, length: size } }], { handle: reading });
  await expect(written).rejects.toMatchObject({ code: 'EBADF' });
  await reading.close();
});

test('a checkpoint that throws ends the work of both threads before the promise ends', async () => {
  stored('a', 64 * MIB);
  let asked = 0;
  const { written, reported } = write([{ offset: 0, copied: { from: 'a', at: 0, length: 64 * MIB } }], {
    checkpoint: () => {
      if (++asked > 5) throw new Error('that is enough');
    },
  });
  await expect(written).rejects.toThrow('that is enough');
  const bytes = reported.reduce((a, b) => a + b);
  expect(bytes).toBeGreaterThan(0);
  expect(bytes).toBeLessThan(64 * MIB);
  // Longer than a thread needs for the step that it was in.
  await write([{ offset: 0, copied: { from: 'a', at: 0, length: 64 * MIB } }]).written;
  expect(reported.reduce((a, b) => a + b)).toBe(bytes);
});

test('where steps are held small, none is larger', async () => {
  stored('a', 40 * MIB);
  const { written, reported } = write([{ offset: 0, copied: { from: 'a', at: 0, length: 40 * MIB } }], {
    step: 100_000,
  });
  await written;
  expect(Math.max(...reported)).toBe(100_000);
});

// Of two threads either may be the first to find it out, each at the beginning of its own batch.
test.each([
  ['here', MIB, [4096]],
  ['by threads', 48 * MIB, [4096, 4096 + 8 * MIB]],
])('a device that forgets what it was told is found out at the byte, written %s', async (_, size, where) => {
  stored('a', size);
  const forgetful = await open('/dev/zero', 'r+');
  const { written, troubles } = write([{ offset: 4096, copied: { from: 'a', at: 0, length: size } }], {
    handle: forgetful,
  });
  await expect(written).rejects.toThrow('differs');
  const [first] = troubles;
  expect(first).toEqual({ kind: 'differs', offset: expect.any(Number) as number });
  expect(where).toContain((first as { offset: number }).offset);
  await forgetful.close();
});

test('a flush beside the writing that fails fails the writing, also behind its last byte', async () => {
  // Enough that a flush is begun, and nothing is written after it that could notice.
  const size = 257 * MIB;
  writeFileSync(path.join(folder, 'much'), '');
  truncateSync(path.join(folder, 'much'), size);
  const done = () => job.reported.reduce((a, b) => a + b, 0);
  const failing = new Proxy(handle, {
    get: (target, name) =>
      name === 'datasync'
        ? () =>
            until(() => done() === size).then(() => Promise.reject(Object.assign(new Error('EIO'), { code: 'EIO' })))
        : (Reflect.get(target, name) as unknown),
  });
  const job = write([{ offset: 0, copied: { from: 'much', at: 0, length: size } }], { handle: failing });
  await expect(job.written).rejects.toMatchObject({ code: 'EIO' });
});

describe('the turn of those who write', () => {
  const states = (longest?: number) => {
    const shared = new SharedArrayBuffer(4);
    return { turn: new Turn(shared, longest), state: new Int32Array(shared), shared };
  };

  test('is free again once it was ended', () => {
    const { turn, state } = states();
    for (let i = 0; i < 100; i++) {
      expect(turn.take()).toBe(true);
      expect(Atomics.load(state, 0)).toBe(1);
      turn.end();
      expect(Atomics.load(state, 0)).toBe(0);
    }
  });

  test('is waited for, and whoever waits is woken when it ends', async () => {
    const { turn, state, shared } = states();
    Atomics.store(state, 0, 1);
    const other = new Worker(
      `const state = new Int32Array(require('node:worker_threads').workerData);
       while (Atomics.load(state, 0) !== 2);
       if (Atomics.exchange(state, 0, 0) === 2) Atomics.notify(state, 0, 1);`,
      { eval: true, workerData: shared },
    );
    await once(other, 'online');
    // Woken, and not by the clock.
    expect(turn.take()).toBe(true);
    turn.end();
    expect(Atomics.load(state, 0)).toBe(0);
    await other.terminate();
  });

  test('is not waited for where whoever has it is gone', () => {
    const { turn, state } = states(1);
    Atomics.store(state, 0, 1);
    expect(turn.take()).toBe(false);
    turn.end();
    expect(Atomics.load(state, 0)).toBe(0);
  });
});
