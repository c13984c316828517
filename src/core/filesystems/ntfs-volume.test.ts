/** What is read of the volume record of an NTFS, and of records that cannot be believed. */
import { memoryBlocks } from '../bytes/blocks';
import { ntfsVolume } from './ntfs-volume';

const put = (bytes: Uint8Array, at: number, more: readonly number[]) => bytes.set(more, at);
const u16 = (value: number) => [value & 0xff, value >> 8];
const u32 = (value: number) => [...u16(value & 0xffff), ...u16(value >>> 16)];

/** A volume of 64 KiB: clusters of 4 KiB, its file table in cluster 4, with the record of a label and of flags. */
function volume(label: string, flags: number): Uint8Array {
  const bytes = new Uint8Array(65_536);
  put(bytes, 11, [...u16(512), 8]);
  put(bytes, 48, [4]);
  put(bytes, 64, [0xf6]);
  const record = 4 * 4096 + 3 * 1024;
  const name = [...label].flatMap((c) => u16(c.charCodeAt(0)));
  const length = Math.ceil((24 + name.length) / 8) * 8;
  put(bytes, record, [...new TextEncoder().encode('FILE'), ...u16(48), ...u16(3)]);
  put(bytes, record + 20, u16(56));
  put(bytes, record + 48, [...u16(7), ...u16(0), ...u16(0)]);
  const [first, second] = [record + 56, record + 56 + length];
  put(bytes, first, [...u32(0x60), ...u32(length)]);
  put(bytes, first + 16, [...u32(name.length), ...u16(24)]);
  put(bytes, first + 24, name);
  put(bytes, second, [...u32(0x70), ...u32(40)]);
  put(bytes, second + 16, [...u32(12), ...u16(24)]);
  put(bytes, second + 24 + 8, [3, 1, ...u16(flags)]);
  put(bytes, second + 40, u32(0xffffffff));
  for (const end of [510, 1022]) put(bytes, record + end, u16(7));
  return bytes;
}

const read = (bytes: Uint8Array, available = bytes.length) => ntfsVolume(memoryBlocks(bytes), 0, available);

test('label and mark are read', async () => {
  expect(await read(volume('SURVEY', 0))).toEqual({ label: 'SURVEY', isDirty: false });
  expect(await read(volume('Küste', 1))).toEqual({ label: 'Küste', isDirty: true });
  expect(await read(volume('', 0x8001))).toEqual({ label: '', isDirty: true });
});

test.each<readonly [string, (bytes: Uint8Array) => void]>([
  ['a torn record', (bytes) => put(bytes, 4 * 4096 + 3 * 1024 + 510, [9])],
  ['no record', (bytes) => put(bytes, 4 * 4096 + 3 * 1024, [0])],
  ['a table beyond the end', (bytes) => put(bytes, 48, [0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0x7f])],
  ['records of 2 GiB', (bytes) => put(bytes, 64, [0xe1])],
  ['sectors of no bytes', (bytes) => put(bytes, 11, [0, 0])],
  ['an attribute beyond the record', (bytes) => put(bytes, 4 * 4096 + 3 * 1024 + 60, u32(4096))],
  ['a list beyond the record', (bytes) => put(bytes, 4 * 4096 + 3 * 1024 + 4, u16(1023))],
])('of %s nothing is believed', async (_, harm) => {
  const bytes = volume('SURVEY', 1);
  harm(bytes);
  expect(await read(bytes)).toEqual({});
});

test('a volume that is too short for its table is left alone', async () => {
  expect(await read(volume('SURVEY', 1), 511)).toEqual({});
  expect(await read(volume('SURVEY', 1), 18_000)).toEqual({});
});
