/** What is read of the records of an NTFS, and of records that cannot be believed. */
import fc from 'fast-check';
import { memoryBlocks } from '../bytes/blocks';
import { CLUSTER, deep, last, named, put, RECORD, rootOf, TABLE, u16, u32, volume } from '@tests/ntfs';
import { ntfsVolume } from './ntfs-volume';

const read = (bytes: Uint8Array, available = bytes.length) => ntfsVolume(memoryBlocks(bytes), 0, available);
const AT = TABLE + 3 * RECORD;

test('label and mark are read', async () => {
  expect(await read(volume('SURVEY', 0))).toEqual({ label: 'SURVEY', isDirty: false });
  expect(await read(volume('Küste', 1))).toEqual({ label: 'Küste', isDirty: true });
  expect(await read(volume('', 0x8001))).toEqual({ label: '', isDirty: true });
});

test.each<readonly [string, (bytes: Uint8Array) => void]>([
  ['a torn record', (bytes) => put(bytes, AT + 510, [9])],
  ['no record', (bytes) => put(bytes, AT, [0])],
  ['a table beyond the end', (bytes) => put(bytes, 48, [0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0x7f])],
  ['records of 2 GiB', (bytes) => put(bytes, 64, [0xe1])],
  ['sectors of no bytes', (bytes) => put(bytes, 11, [0, 0])],
  ['an attribute beyond the record', (bytes) => put(bytes, AT + 60, u32(4096))],
  ['a list beyond the record', (bytes) => put(bytes, AT + 4, u16(1023))],
])('of %s nothing is believed', async (_, harm) => {
  const bytes = volume('SURVEY', 1);
  harm(bytes);
  expect(await read(bytes)).toEqual({});
});

test('a volume that is too short for its table is left alone', async () => {
  expect(await read(volume('SURVEY', 1), 511)).toEqual({});
  expect(await read(volume('SURVEY', 1), 18_000)).toEqual({});
});

describe('a machine that sleeps', () => {
  const names = [...named('$MFT', 0), ...named('boot', 31), ...named('hiberfil.sys', 30), ...named('Users', 33)];

  test('is known by the file of its memory', async () => {
    expect(await read(volume('S', 0, [rootOf([...names, ...last()])]))).toMatchObject({ isAsleep: true });
    expect(await read(volume('S', 0, [rootOf([...names, ...last()])], 'HIBR'))).toMatchObject({ isAsleep: true });
  });

  test.each<readonly [string, Uint8Array]>([
    ['one that woke up', volume('S', 0, [rootOf([...names, ...last()])], 'wake')],
    ['one whose file is zeros', volume('S', 0, [rootOf([...names, ...last()])], '\0\0\0\0')],
    ['one without such a file', volume('S', 0, [rootOf([...named('boot', 31), ...named('Users', 30), ...last()])])],
    ['one whose file is beyond the table', volume('S', 0, [rootOf([...named('hiberfil.sys', 9999), ...last()])])],
  ])('%s is not taken for it', async (_, bytes) => {
    expect(await read(bytes)).toEqual({ label: 'S', isDirty: false });
  });

  test('is found in the blocks of a large root', async () => {
    expect(await read(deep(1))).toMatchObject({ isAsleep: true });
    expect(await read(deep(0))).not.toHaveProperty('isAsleep');
  });

  test('blocks that lead back to themselves end', async () => {
    const bytes = deep(1);
    const at = 52 * CLUSTER + 64;
    put(bytes, at, last(1));
    expect(await read(bytes)).not.toHaveProperty('isAsleep');
  });

  test('whatever the bytes are, nothing is read outside of the volume, and it ends', async () => {
    const harms = fc.array(fc.tuple(fc.nat(262_143), fc.nat(255)), { minLength: 1, maxLength: 30 });
    const near = fc.array(
      fc.tuple(
        fc.constantFrom(0, 40, TABLE, AT, TABLE + 5 * RECORD, 50 * CLUSTER, 52 * CLUSTER),
        fc.nat(300),
        fc.nat(255),
      ),
      { maxLength: 12 },
    );
    await fc.assert(
      fc.asyncProperty(harms, near, async (far, close) => {
        const bytes = deep(1);
        for (const [at, byte] of far) bytes[at] = byte;
        for (const [base, at, byte] of close) bytes[base + at] = byte;
        let reads = 0;
        const source = {
          size: bytes.length,
          read: (at: number, length: number) => {
            reads += 1;
            expect(at).toBeGreaterThanOrEqual(0);
            expect(at + length).toBeLessThanOrEqual(bytes.length);
            return Promise.resolve(bytes.subarray(at, at + length));
          },
        };
        await ntfsVolume(source, 0, bytes.length);
        expect(reads).toBeLessThan(40);
      }),
      { numRuns: 400 },
    );
  });
});
