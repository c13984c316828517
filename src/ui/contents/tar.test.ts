import { Readable } from 'node:stream';
import { extract } from 'tar-stream';
import { tarBlob } from './tar';

async function read(blob: Blob) {
  const unpacking = extract();
  Readable.from([Buffer.from(await blob.arrayBuffer())]).pipe(unpacking);
  const found: { name: string; size: number; time: number; content: string }[] = [];
  for await (const entry of unpacking) {
    const parts: Buffer[] = [];
    for await (const part of entry) parts.push(part as Buffer);
    const { name, size, mtime } = entry.header;
    found.push({ name, size: size!, time: mtime!.getTime(), content: Buffer.concat(parts).toString() });
  }
  return found;
}

const file = (content: string, lastModified = 1_772_366_400_000) =>
  Object.assign(new Blob([content]), { lastModified });

test('files of any name and length come out as they went in, in their order', async () => {
  const long = `${'folder/'.repeat(30)}Gezeitenübersicht der Küste, 水位.csv`;
  const files = [
    { path: 'z.txt', file: file('x'.repeat(512)) },
    { path: long, file: file('ü') },
    { path: 'empty', file: file('') },
    { path: 'a', file: file('y'.repeat(1025)) },
  ];
  const found = await read(tarBlob(files));
  expect(found.map((one) => one.name)).toEqual(files.map((one) => one.path));
  expect(found.map((one) => one.content)).toEqual(['x'.repeat(512), 'ü', '', 'y'.repeat(1025)]);
  expect(found[0]!.time).toBe(1_772_366_400_000);
});

test.each(Array.from({ length: 12 }, (_, i) => 84 + i))(
  'a path of %d characters, around which the length of a record gets a digit more',
  async (length) => {
    const [one] = await read(tarBlob([{ path: 'p'.repeat(length), file: file('1') }]));
    expect([one!.name.length, one!.content]).toEqual([length, '1']);
  },
);

test('the body is whole blocks and ends with two of zeros', async () => {
  const bytes = new Uint8Array(await tarBlob([{ path: 'a', file: file('1') }]).arrayBuffer());
  expect(bytes.length % 512).toBe(0);
  expect(bytes.subarray(-1024).every((byte) => byte === 0)).toBe(true);
});
