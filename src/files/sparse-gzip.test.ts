import { MIB } from '../core/quantity/units';
import { mkdtempSync, rmSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { gunzipSync } from 'node:zlib';
import { noise } from '@tests/samples';
import { sparseGzip } from './sparse-gzip';
import path from 'node:path';

let folder: string;

beforeEach(() => (folder = mkdtempSync(path.join(tmpdir(), 'loess-gzip-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

async function compressed(size: number, parts: [number, Uint8Array][]): Promise<{ original: Buffer; gzip: Buffer }> {
  const original = Buffer.alloc(size);
  const file = await open(path.join(folder, 'file'), 'w+');
  try {
    await file.truncate(size);
    for (const [at, bytes] of parts) {
      original.set(bytes, at);
      await file.write(bytes, 0, bytes.length, at);
    }
    const pieces: Buffer[] = [];
    for await (const piece of sparseGzip(file)) pieces.push(Buffer.from(piece));
    return { original, gzip: Buffer.concat(pieces) };
  } finally {
    await file.close();
  }
}

test('other work goes on while it compresses what cannot be made smaller', async () => {
  let turns = 0;
  let isOver = false;
  const others = (async () => {
    while (!isOver) {
      await new Promise((resume) => setImmediate(resume));
      turns += 1;
    }
  })();
  await compressed(4 * MIB, [[0, noise(4 * MIB)]]);
  isOver = true;
  await others;
  // Windows that block until they are compressed leave some twenty turns to others.
  expect(turns).toBeGreaterThan(500);
});

test.each<[string, number, [number, Uint8Array][]]>([
  ['nothing at all', 0, []],
  ['one byte', 1, [[0, Uint8Array.of(7)]]],
  ['only zeros', 5 * MIB, []],
  ['zeros that end inside a window', 2 * MIB + 12_345, []],
  [
    'something at both ends',
    9 * MIB,
    [
      [0, noise(600)],
      [9 * MIB - 10, noise(10)],
    ],
  ],
  ['noise between zeros', 4 * MIB + 1, [[MIB + 3, noise(2 * MIB)]]],
])('%s comes out as it went in, checksum and length included', async (_, size, parts) => {
  const { original, gzip } = await compressed(size, parts);
  // The decompressor verifies CRC-32 and length of the trailer.
  expect(Buffer.compare(gunzipSync(gzip), original)).toBe(0);
});

test('zeros shrink by a thousand', async () => {
  const { gzip } = await compressed(64 * MIB, []);
  expect(gzip.length).toBeLessThan((64 * MIB) / 900);
});
