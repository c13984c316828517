/** NTFS volumes made by hand, as far as a survey reads them: boot sector, file table, the root directory with its index. */
import { FoundImage } from './found-image';

export const put = (bytes: Uint8Array, at: number, more: readonly number[] | Uint8Array) => bytes.set(more, at);
export const u16 = (value: number) => [value & 0xff, value >> 8];
export const u32 = (value: number) => [...u16(value & 0xffff), ...u16(value >>> 16)];
const u64 = (value: number) => [...u32(value % 2 ** 32), ...u32(Math.floor(value / 2 ** 32))];
const units = (text: string) => [...text].flatMap((c) => u16(c.charCodeAt(0)));
const ascii = (text: string) => [...new TextEncoder().encode(text)];
const padded = (bytes: readonly number[], to = 8) => [
  ...bytes,
  ...Array<number>((to - (bytes.length % to)) % to).fill(0),
];

export const CLUSTER = 4096;
export const TABLE = 4 * CLUSTER;
export const RECORD = 1024;

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
export const named = (name: string, record: number, below?: number) => {
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
export const last = (below?: number) => [
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
export const rootOf = (entries: readonly number[]) =>
  inside(0x90, [...u32(0x30), ...u32(1), ...u32(4096), 1, 0, 0, 0, ...index(16, entries)]);

/**
 * A volume of 256 KiB: clusters of 4 KiB, its file table in cluster 4, records of a label and of flags; in its root, if it
 * has one, what the attributes say. The file of record 30 begins in cluster 40.
 */
export function volume(
  label: string,
  flags: number,
  root?: readonly (readonly number[])[],
  memory = 'hibr',
): Uint8Array {
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

/** A root of blocks: the names up to “boot” below the first entry, those behind it below the last. */
export function deep(below: number): Uint8Array {
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

/** The same as an image: the system of the volume sleeps. */
export const asleep = (): FoundImage =>
  new FoundImage(262_144).put(0, deep(1)).put(3, Buffer.from('NTFS    ')).number(510, 0xaa55, 2);
