/** What is read of the records of an NTFS, and of records that cannot be believed. */
import fc from 'fast-check';
import { memoryBlocks } from '../bytes/blocks';
import { ntfsVolume } from './ntfs-volume';

const put = (bytes: Uint8Array, at: number, more: readonly number[] | Uint8Array) => bytes.set(more, at);
const u16 = (value: number) => [value & 0xff, value >> 8];
const u32 = (value: number) => [...u16(value & 0xffff), ...u16(value >>> 16)];
const u64 = (value: number) => [...u32(value % 2 ** 32), ...u32(Math.floor(value / 2 ** 32))];
const units = (text: string) => [...text].flatMap((c) => u16(c.charCodeAt(0)));
const ascii = (text: string) => [...new TextEncoder().encode(text)];
const padded = (bytes: readonly number[], to = 8) => [
  ...bytes,
  ...Array<number>((to - (bytes.length % to)) % to).fill(0),
];

const CLUSTER = 4096;
const TABLE = 4 * CLUSTER;
const RECORD = 1024;

/** An attribute that lies in its record. */
const inside = (type: number, content: readonly number[]) => {
  const body = padded(content);
  return [
    ...u32(type),
    ...u32(24 + body.length),
    0,
    0,
    ...u16(0),
    ...u32(0),
    ...u32(content.length),
    ...u16(24),
    ...u16(0),
    ...body,
  ];
};
/** One that lies in runs of clusters elsewhere. */
const outside = (type: number, runs: readonly (readonly [by: number, clusters: number])[]) => {
  const list = padded([...runs.flatMap(([by, count]) => [0x21, count, ...u16(by & 0xffff)]), 0]);
  const head = [
    ...u32(type),
    ...u32(64 + list.length),
    1,
    0,
    ...u16(0),
    ...u32(0),
    ...u64(0),
    ...u64(0),
    ...u16(64),
    ...u16(0),
  ];
  return [...head, ...Array<number>(64 - head.length).fill(0), ...list];
};

/** Puts a record or a block of an index with the last bytes of its sectors kept in a list. */
function protectedPut(
  bytes: Uint8Array,
  at: number,
  mark: string,
  length: number,
  headLength: number,
  body: readonly number[],
) {
  const sectors = length / 512;
  put(bytes, at, [...ascii(mark), ...u16(headLength), ...u16(sectors + 1)]);
  put(
    bytes,
    at + headLength + 2 * (sectors + 1) + ((2 * (sectors + 1)) % 8 === 0 ? 0 : 8 - ((2 * (sectors + 1)) % 8)),
    body,
  );
  put(bytes, at + headLength, u16(7));
  for (let i = 1; i <= sectors; i++) {
    const end = at + 512 * i - 2;
    put(bytes, at + headLength + 2 * i, bytes.slice(end, end + 2));
    put(bytes, end, u16(7));
  }
}

function putRecord(bytes: Uint8Array, number: number, attributes: readonly (readonly number[])[]) {
  const at = TABLE + number * RECORD;
  put(bytes, at + 20, u16(56));
  protectedPut(bytes, at, 'FILE', RECORD, 48, [...attributes.flat(), ...u32(0xffffffff)]);
}

/** An entry of an index that names a file, with what lies below it. */
const named = (name: string, record: number, below?: number) => {
  const key = [...Array<number>(64).fill(0), name.length, 1, ...units(name)];
  const body = padded(key);
  const length = 16 + body.length + (below === undefined ? 0 : 8);
  return [
    ...u64(record),
    ...u16(length),
    ...u16(key.length),
    ...u16(below === undefined ? 0 : 1),
    0,
    0,
    ...body,
    ...(below === undefined ? [] : u64(below)),
  ];
};
const last = (below?: number) => [
  ...u64(0),
  ...u16(below === undefined ? 16 : 24),
  ...u16(0),
  ...u16(below === undefined ? 2 : 3),
  0,
  0,
  ...(below === undefined ? [] : u64(below)),
];
const index = (first: number, entries: readonly number[]) => [
  ...u32(first),
  ...u32(first + entries.length),
  ...u32(first + entries.length),
  ...u32(0),
  ...entries,
];
const rootOf = (entries: readonly number[]) =>
  inside(0x90, [...u32(0x30), ...u32(1), ...u32(4096), 1, 0, 0, 0, ...index(16, entries)]);

/**
 * A volume of 256 KiB: clusters of 4 KiB, its file table in cluster 4, records of a label and of flags; in its root, if it
 * has one, what the attributes say. The file of record 30 begins in cluster 40.
 */
function volume(label: string, flags: number, root?: readonly (readonly number[])[], memory = 'hibr'): Uint8Array {
  const bytes = new Uint8Array(262_144);
  put(bytes, 11, [...u16(512), 8]);
  put(bytes, 48, [4]);
  put(bytes, 64, [0xf6, 0, 0, 0, 1]);
  putRecord(bytes, 0, [
    outside(0x80, [
      [4, 4],
      [20, 4],
    ]),
  ]);
  putRecord(bytes, 3, [inside(0x60, units(label)), inside(0x70, [...Array<number>(8).fill(0), 3, 1, ...u16(flags)])]);
  if (root) putRecord(bytes, 5, root);
  // Record 30 is in the second run of the file table: 4 clusters hold 16 records.
  const second = 24 * CLUSTER + (30 - 16) * RECORD - TABLE;
  putRecord(bytes, second / RECORD, [outside(0x80, [[40, 3]])]);
  put(bytes, 40 * CLUSTER, ascii(memory));
  return bytes;
}

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

  /** A root of blocks: the names up to “boot” below the first entry, those behind it below the last. */
  function deep(below: number): Uint8Array {
    const bytes = volume('S', 0, [
      rootOf([...named('boot', 31, 0), ...last(below)]),
      outside(0xa0, [
        [50, 1],
        [2, 1],
      ]),
    ]);
    const block = (cluster: number, entries: readonly number[]) => {
      const at = cluster * CLUSTER;
      // The list of nine sector ends goes ahead of the entries.
      put(bytes, at + 24, index(40, []));
      put(bytes, at + 24 + 4, u32(40 + entries.length));
      protectedPut(bytes, at, 'INDX', CLUSTER, 40, entries);
    };
    block(50, [...named('$MFT', 0), ...last()]);
    block(52, [...named('hiberfil.sys', 30), ...named('Users', 33), ...last()]);
    return bytes;
  }

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
