/** Archives that are made to keep whoever unpacks them busy, or to fill its memory: small ones that say a lot. */
import { constants, crc32, gzipSync } from 'node:zlib';
import { KIB, MIB } from '@/core/quantity/units';

/** What it does, the archive, and what is said of it; undefined where it is taken in. */
export type HostileArchive = readonly [name: string, make: () => Buffer, refused: RegExp | undefined];

const BLOCK = 512;

/** A header with its sum, which is made as if its own field were blanks. */
function summed(block: Buffer): Buffer {
  const sum = block.fill(' ', 148, 156).reduce((all, byte) => all + byte, 0);
  block.write(`${sum.toString(8).padStart(6, '0')}\0 `, 148);
  return block;
}

/** A header of a tar, with its sum. */
function header(name: string, flag: string, size = 0): Buffer {
  const block = Buffer.alloc(BLOCK);
  block.write(name.slice(0, 100), 0, 'latin1');
  block.write('0000644\0', 100);
  block.write(`${size.toString(8).padStart(11, '0')}\0`, 124);
  block.write('00000000000\0', 136);
  block.write(flag, 156);
  block.write('ustar\0', 257);
  block.write('00', 263);
  return summed(block);
}

function member(name: string, flag: string, content: Buffer = Buffer.alloc(0)): Buffer {
  const filling = Buffer.alloc((BLOCK - (content.length % BLOCK)) % BLOCK);
  return Buffer.concat([header(name, flag, content.length), content, filling]);
}

/** A record of an extended header: its length counts itself. */
function record(key: string, value: string): string {
  const rest = ` ${key}=${value}\n`;
  let length = rest.length;
  while (`${length}${rest}`.length !== length) length = `${length}${rest}`.length;
  return `${length}${rest}`;
}

const pax = (flag: 'x' | 'g', records: readonly (readonly [key: string, value: string])[]) =>
  member('pax', flag, Buffer.from(records.map(([key, value]) => record(key, value)).join(''), 'latin1'));

const many = <T>(count: number, make: (i: number) => T): T[] => Array.from({ length: count }, (_, i) => make(i));

const packed = (...parts: readonly Buffer[]) =>
  gzipSync(Buffer.concat(parts), { level: 1, strategy: constants.Z_DEFAULT_STRATEGY });

/** Close to the longest that an extended header may be. */
const LONG = 4 * MIB - 64;
const SLASHES = `a${'/'.repeat(LONG)}x`;

/** Records of different keys, as many as have room. */
const records = (tag: string) => many(200_000, (i) => [`${tag}${i}`, 'x'] as const);

/** A zip whose directory names one piece of data again and again. */
function overlapping(entries: number): Buffer {
  const zeros = 8 * MIB;
  const data = gzipSync(Buffer.alloc(zeros)).subarray(10, -8);
  const local = Buffer.alloc(31);
  const directory = Buffer.alloc(47 * entries);
  local.writeUInt32LE(0x04034b50, 0);
  local.writeUInt16LE(8, 8);
  local.writeUInt16LE(1, 26);
  local.write('a', 30);
  for (let i = 0; i < entries; i++) {
    const at = 47 * i;
    directory.writeUInt32LE(0x02014b50, at);
    directory.writeUInt16LE(8, at + 10);
    directory.writeUInt32LE(crc32(Buffer.alloc(zeros)), at + 16);
    directory.writeUInt32LE(data.length, at + 20);
    directory.writeUInt32LE(zeros, at + 24);
    directory.writeUInt16LE(1, at + 28);
    directory.writeUInt8(0x41 + i, at + 46);
  }
  const end = Buffer.alloc(22);
  end.writeUInt32LE(0x06054b50, 0);
  end.writeUInt16LE(entries, 8);
  end.writeUInt16LE(entries, 10);
  end.writeUInt32LE(directory.length, 12);
  end.writeUInt32LE(local.length + data.length, 16);
  return Buffer.concat([local, data, directory, end]);
}

/** A zip that says how many entries it has, and has none. */
function empty(entries: number): Buffer {
  const zip = overlapping(0);
  zip.writeUInt16LE(entries, zip.length - 14);
  zip.writeUInt16LE(entries, zip.length - 12);
  return zip;
}

/** Blocks of one byte that stands for 128 KiB, in a frame of zstd whose window has so many bytes in 2ⁿ. */
function zstdRuns(blocks: number, exponent: number): Buffer {
  const run = (isLast: boolean) => {
    const said = (isLast ? 1 : 0) | (1 << 1) | ((128 * KIB) << 3);
    return Buffer.from([said & 255, (said >> 8) & 255, said >> 16, 0x61]);
  };
  return Buffer.concat([
    Buffer.from([0x28, 0xb5, 0x2f, 0xfd, 0, (exponent - 10) << 3]),
    ...many(blocks, (i) => run(i === blocks - 1)),
  ]);
}

const FILE = member('file', '0', Buffer.from('x'));

export const HOSTILE_ARCHIVES: readonly HostileArchive[] = [
  [
    'a path of four million slashes',
    () => packed(pax('x', [['path', SLASHES]]), FILE),
    /is longer than 4096 characters/,
  ],
  [
    'a long name of four million slashes',
    () => packed(member('long', 'L', Buffer.from(SLASHES)), FILE),
    /is longer than 4096 characters/,
  ],
  [
    'a second name of four million slashes',
    () => packed(FILE, pax('x', [['linkpath', SLASHES]]), member('b', '1')),
    /which is not there/,
  ],
  [
    'a link to four million slashes',
    () => packed(FILE, pax('x', [['linkpath', SLASHES]]), member('b', '2')),
    /is a link to a name that is too long/,
  ],
  [
    'an access list that is all remarks',
    () => packed(pax('x', [['SCHILY.acl.access', `${'#'.repeat(LONG)}\rx`]]), FILE),
    undefined,
  ],
  [
    'a name of millions of bytes that are no characters',
    () => packed(pax('x', [['path', '\xe1'.repeat(LONG)]]), FILE),
    /is longer than 4096 characters/,
  ],
  [
    'hundreds of thousands of records for all files',
    () => packed(pax('g', records('k')), ...many(1000, (i) => member(`${i}`, '0'))),
    /an extended header in it is too long/,
  ],
  [
    'records for all files that become more and more',
    () => packed(...many(200, (i) => pax('g', [[`k${i}`, 'x'.repeat(60 * KIB)]]))),
    /says for all of its files is too long/,
  ],
  [
    'one large attribute for thousands of files',
    () => packed(pax('g', [['SCHILY.xattr.user.a', 'x'.repeat(60 * KIB)]]), ...many(5000, (i) => member(`${i}`, '0'))),
    /Names, attributes and holes of its files take more than 128 MiB/,
  ],
  [
    'names that are all left out, and all as long as can be',
    () => packed(...many(6, () => Buffer.concat([member('long', 'L', Buffer.from('a'.repeat(LONG))), FILE]))),
    /is longer than 4096 characters/,
  ],
  [
    'files whose place is taken again and again, with names that follow',
    () =>
      packed(
        member('a', '0'),
        ...many(8000, (i) => {
          const block = header(`b${i}`, '1');
          block.write('a', 157);
          return summed(block);
        }),
        member('a', '0'),
        ...many(8000, (i) => member(`b${i}`, '0')),
      ),
    /stands in it twice/,
  ],
  [
    'files of hundreds of thousands of pieces',
    () => {
      const map = many(180_000, (i) => `${2 * i},1`).join(',');
      const one = pax('x', [
        ['GNU.sparse.map', map],
        ['GNU.sparse.size', '4000000000'],
      ]);
      return packed(...many(3, (i) => Buffer.concat([one, member(`${i}`, '0', Buffer.alloc(180_000))])));
    },
    /holes of its files take more than/,
  ],
  [
    'folders in folders of their own for each file',
    () => packed(...many(4000, (i) => member(`${i}/${'a/'.repeat(45)}f`, '0'))),
    undefined,
  ],
  ['a file of gigabytes that is not there', () => packed(header('file', '0', 2 ** 32)), /ends in the middle of a file/],
  ['one piece of data in a zip, again and again', () => overlapping(12), /unpacks to more than 1000 times/],
  ['a zip that says to have 65,534 files', () => empty(65_534), /The archive cannot be read/],
  [
    'bytes of zstd that stand for 128 KiB each',
    () => zstdRuns(4000, 17),
    /unpacks to more than 1000 times|cannot be read/,
  ],
  ['a window of zstd as large as can be', () => zstdRuns(1, 41), /looks back further than 128 MiB/],
];
