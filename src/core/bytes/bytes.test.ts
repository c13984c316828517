import fc from 'fast-check';
import { memoryBlocks, writeAll } from './blocks';
import { Coverage, type Extent, endOf, joined, shifted, type Span, without } from './extents';
import { crc32, crcJoined } from './crc32';
import { guidFrom } from './guid';
import { decode, encode, field, narrow, record, showRecord } from './record';

const SHAPE = record('sample', 16, {
  one: field(0, 'u8', 'a byte'),
  two: field(1, 'u16', 'a word'),
  four: field(4, 'u32', 'a double word'),
  text: field(8, { ascii: 3 }, 'letters'),
  raw: field(12, { bytes: 4 }, 'bytes'),
});

describe('records', () => {
  test('numbers are little-endian, gaps are zero', () => {
    const bytes = encode(SHAPE, { one: 1, two: 0x0203, four: 0x04050607, text: 'abc', raw: Uint8Array.of(9, 8, 7, 6) });
    expect([...bytes]).toEqual([1, 3, 2, 0, 7, 6, 5, 4, 97, 98, 99, 0, 9, 8, 7, 6]);
  });

  test('what was encoded is decoded', () => {
    fc.assert(
      fc.property(
        fc.nat(255),
        fc.nat(65535),
        fc.integer({ min: 0, max: 2 ** 32 - 1 }),
        fc.uint8Array({ minLength: 4, maxLength: 4 }),
        (one, two, four, raw) => {
          const values = { one, two, four, text: 'xyz', raw };
          expect(decode(SHAPE, encode(SHAPE, values))).toEqual(values);
        },
      ),
    );
  });

  test('values that do not fit are defects', () => {
    const values = { one: 0, two: 0, four: 0, text: 'abc', raw: new Uint8Array(4) };
    expect(() => encode(SHAPE, { ...values, one: 256 })).toThrow('sample.one');
    expect(() => encode(SHAPE, { ...values, two: -1 })).toThrow('sample.two');
    expect(() => encode(SHAPE, { ...values, text: 'ab' })).toThrow('2 bytes, not 3');
    expect(() => decode(SHAPE, new Uint8Array(15))).toThrow('15 of 16');
  });

  test('a wrong description cannot be made', () => {
    expect(() => record('bad', 4, { a: field(0, 'u32', ''), b: field(3, 'u8', '') })).toThrow('overlaps');
    expect(() => record('bad', 4, { a: field(2, 'u32', '') })).toThrow('beyond');
  });
});

describe('extents', () => {
  test('ends and shifts', () => {
    expect(endOf({ offset: 10, zeros: 5 })).toBe(15);
    expect(endOf(shifted({ offset: 10, bytes: new Uint8Array(3) }, 7))).toBe(20);
  });

  test('taking out holes leaves exactly the other bytes', () => {
    const span = fc.tuple(fc.nat(60), fc.nat(20)).map(([start, length]): Span => ({ start, end: start + length }));
    fc.assert(
      fc.property(span, fc.array(span, { maxLength: 6 }), (whole, holes) => {
        const left = without(whole, holes);
        for (let at = 0; at < 90; at++) {
          const within = (one: Span) => at >= one.start && at < one.end;
          expect(left.filter(within).length).toBe(within(whole) && !holes.some(within) ? 1 : 0);
        }
        left.forEach((one, i) => expect(one.start).toBeGreaterThan(left[i - 1]?.end ?? -1));
      }),
    );
  });
});

test('coverage knows exactly the bytes that were covered', () => {
  const span = fc.tuple(fc.nat(60), fc.integer({ min: 1, max: 20 }));
  fc.assert(
    fc.property(fc.array(span, { maxLength: 8 }), (spans) => {
      const coverage = new Coverage();
      for (const [start, length] of spans) coverage.add(start, length);
      for (let at = 0; at < 90; at++)
        expect(coverage.touches(at, 1)).toBe(spans.some(([start, length]) => at >= start && at < start + length));
    }),
  );
});

describe('writing extents', () => {
  const extents: Extent[] = [
    { offset: 2, bytes: Uint8Array.of(1, 2, 3) },
    { offset: 5, zeros: 3 },
  ];

  test('a used target gets the zeros too', async () => {
    const target = new Uint8Array(10).fill(0xaa);
    await writeAll(extents, memoryBlocks(target));
    expect([...target]).toEqual([0xaa, 0xaa, 1, 2, 3, 0, 0, 0, 0xaa, 0xaa]);
  });

  test('a blank target is spared them', async () => {
    const written: number[] = [];
    const target = new Uint8Array(10);
    await writeAll(extents, memoryBlocks(target, true), { onWritten: (bytes) => written.push(bytes) });
    expect([...target]).toEqual([0, 0, 1, 2, 3, 0, 0, 0, 0, 0]);
    expect(written).toEqual([3]);
  });

  test('a long fill is written in runs, and can be stopped between them', async () => {
    const offsets: number[] = [];
    const sink = {
      blank: false,
      write: (offset: number) => {
        offsets.push(offset);
        return Promise.resolve();
      },
    };
    const checkpoint = () => {
      if (offsets.length === 2) throw new Error('stopped');
    };
    await expect(writeAll([{ offset: 0, zeros: 10 * 2 ** 20 }], sink, { checkpoint })).rejects.toThrow('stopped');
    expect(offsets).toEqual([0, 2 ** 20]);
  });

  test('memory refuses to be read beyond its end', async () => {
    await expect(memoryBlocks(new Uint8Array(4)).read(2, 3)).rejects.toThrow('leaves 4 bytes');
  });
});

describe('records with wide fields', () => {
  const SHAPE = record('wide', 40, {
    count: field(0, 'u64', 'a count'),
    id: field(8, 'guid', 'an id'),
    name: field(24, { utf16: 4 }, 'a name'),
    raw: field(32, { bytes: 4 }, 'bytes'),
  });
  const values = {
    count: 2n ** 63n,
    id: '01020304-0506-0708-090a-0b0c0d0e0f10',
    name: 'ä🌊\0',
    raw: Uint8Array.of(1, 0, 0, 2),
  };

  test('what was encoded is decoded, GUIDs with their first fields turned round', () => {
    const bytes = encode(SHAPE, values);
    expect([...bytes.subarray(8, 24)]).toEqual([4, 3, 2, 1, 6, 5, 8, 7, 9, 10, 11, 12, 13, 14, 15, 16]);
    expect(decode(SHAPE, bytes)).toEqual(values);
    expect(() => encode(SHAPE, { ...values, count: 2n ** 64n })).toThrow(/does not fit u64/);
    expect(() => encode(SHAPE, { ...values, id: 'none' })).toThrow(/not a GUID/);
  });

  test('numbers are narrowed where they can be', () => {
    expect(narrow(BigInt(Number.MAX_SAFE_INTEGER))).toBe(Number.MAX_SAFE_INTEGER);
    expect(narrow(BigInt(Number.MAX_SAFE_INTEGER) + 1n)).toBeUndefined();
  });

  test('a record is shown field by field, without characters that could disturb a screen', () => {
    const shown = showRecord(SHAPE, encode(SHAPE, { ...values, name: 'a\u0007\u202e\ud800' }));
    expect(shown.map(({ offset, length, name }) => [offset, length, name])).toEqual([
      [0, 8, 'count'],
      [8, 16, 'id'],
      [24, 8, 'name'],
      [32, 4, 'raw'],
    ]);
    expect(shown[0]!.text).toBe('9,223,372,036,854,775,808 (8000000000000000h)');
    expect(shown[2]!.text).toBe('a\\u{7}\\u{202e}\\u{d800}');
    expect(shown[3]!.text).toBe('01 00 00 02');
  });
});

test('the check value of CRC-32', () => {
  expect(crc32(Uint8Array.from('123456789', (c) => c.charCodeAt(0)))).toBe(0xcbf43926);
  expect(crc32(new Uint8Array(0))).toBe(0);
  // Of two stretches one behind the other, whatever their lengths.
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 300 }), fc.uint8Array({ maxLength: 5000 }), (a, b) => {
      expect(crcJoined(crc32(a), crc32(b), b.length)).toBe(crc32(joined([a, b])));
    }),
  );
});

test('ids that follow from a text are the same every time and differ between texts', () => {
  expect(guidFrom('gauge')).toBe(guidFrom('gauge'));
  expect(guidFrom('gauge')).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-8[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  const many = Array.from({ length: 5000 }, (_, i) => guidFrom(`slot-${i}`));
  expect(new Set(many).size).toBe(5000);
  expect(new Set(many.map((text) => text.slice(0, 8))).size).toBe(5000);
});
