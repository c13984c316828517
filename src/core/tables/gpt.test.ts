import { crc32 as zlibCrc32 } from 'node:zlib';
import fc from 'fast-check';
import {
  attributeBits,
  ATTRIBUTES,
  attributeWords,
  decodeEntries,
  decodeHeader,
  encodeGpt,
  type GptEntry,
  gptPlaces,
  storedName,
} from './gpt';
import { decodeMbr } from './mbr';

const DISK = '6d617272-616d-4c0a-8d05-7469646573aa';
const ESP: GptEntry = {
  index: 0,
  type: 'c12a7328-f81f-11d2-ba4b-00a0c93ec93b',
  id: '0badcafe-1234-4567-89ab-cdef01234567',
  first: 2048,
  last: 526_335,
  attributes: attributeBits(['required', 'no auto mount']),
  name: 'ESP',
};
const SECTORS = 2_097_152;

function parts(sectorSize: 512 | 4096, sectors: number, entries: GptEntry[] = [ESP]) {
  return encodeGpt({ diskId: DISK, entries }, sectorSize, sectors);
}

describe('places (UEFI specification, “GPT Disk Layout”)', () => {
  test.each([
    [512, 1000, { arraySectors: 32, firstUsable: 34, lastUsable: 966, backupArray: 967, backupHeader: 999 }],
    [4096, 1000, { arraySectors: 4, firstUsable: 6, lastUsable: 994, backupArray: 995, backupHeader: 999 }],
  ])('%d-byte sectors', (size, sectors, places) => {
    expect(gptPlaces(size, sectors)).toMatchObject(places);
  });

  test('parts lie there, in order', () => {
    expect(parts(512, SECTORS).map(({ what, sector, bytes }) => [what, sector, bytes.length])).toEqual([
      ['protective master boot record', 0, 512],
      ['GPT header', 1, 512],
      ['GPT entries', 2, 16_384],
      ['GPT entries, copy', SECTORS - 33, 16_384],
      ['GPT header, copy', SECTORS - 1, 512],
    ]);
    expect(parts(4096, SECTORS).map((one) => one.bytes.length)).toEqual([4096, 4096, 16_384, 16_384, 4096]);
  });
});

describe('the protective record (“Protective MBR”)', () => {
  test('its entry, byte by byte: small, and beyond the reach of cylinders and of 32 bits', () => {
    const entry = (sectors: number) => [...parts(512, sectors, [])[0]!.bytes.subarray(446, 462)];
    // Last sector 2,097,151: cylinder 130, head 138, sector 8.
    expect(entry(SECTORS)).toEqual([0, 0, 2, 0, 0xee, 138, 8, 130, 1, 0, 0, 0, 0xff, 0xff, 0x1f, 0]);
    expect(entry(2 ** 33)).toEqual([0, 0, 2, 0, 0xee, 0xff, 0xff, 0xff, 1, 0, 0, 0, 0xff, 0xff, 0xff, 0xff]);
  });

  test('nothing else stands in it', () => {
    const sector = parts(4096, SECTORS)[0]!.bytes;
    const mbr = decodeMbr(sector);
    expect(mbr).toMatchObject({ signature: 0, code: new Uint8Array(440) });
    expect(sector.subarray(512).every((byte) => byte === 0)).toBe(true);
  });
});

describe('the header (“GPT Header”), byte by byte', () => {
  const [, first, array, , copy] = parts(512, SECTORS);
  const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset);

  test('both copies', () => {
    for (const [header, here, other, arrayAt] of [
      [first!.bytes, 1n, BigInt(SECTORS - 1), 2n],
      [copy!.bytes, BigInt(SECTORS - 1), 1n, BigInt(SECTORS - 33)],
    ] as const) {
      const at = view(header);
      expect(String.fromCharCode(...header.subarray(0, 8))).toBe('EFI PART');
      expect([at.getUint32(8, true), at.getUint32(12, true), at.getUint32(20, true)]).toEqual([0x10000, 92, 0]);
      expect([24, 32, 40, 48, 72].map((offset) => at.getBigUint64(offset, true))).toEqual([
        here,
        other,
        34n,
        BigInt(SECTORS - 34),
        arrayAt,
      ]);
      // The first three fields of a GUID are little-endian, the last two are not.
      expect(Buffer.from(header.subarray(56, 72)).toString('hex')).toBe('7272616d6d610a4c8d057469646573aa');
      expect([at.getUint32(80, true), at.getUint32(84, true)]).toEqual([128, 128]);
      expect(header.subarray(92).every((byte) => byte === 0)).toBe(true);
    }
  });

  test('both checksums, by another implementation', () => {
    for (const { bytes } of [first!, copy!]) {
      expect(view(bytes).getUint32(88, true)).toBe(zlibCrc32(array!.bytes));
      const zeroed = bytes.slice(0, 92);
      zeroed.fill(0, 16, 20);
      expect(view(bytes).getUint32(16, true)).toBe(zlibCrc32(zeroed));
    }
  });

  test('read back, and every damaged byte of it is noticed', () => {
    expect(decodeHeader(first!.bytes)).toMatchObject({ sound: true, here: 1, entries: 128, diskId: DISK });
    for (let at = 0; at < 92; at++) {
      const damaged = first!.bytes.slice();
      damaged[at]! ^= 0x40;
      const read = decodeHeader(damaged);
      if (at < 8) expect(read).toBeUndefined();
      else expect(read).toMatchObject({ sound: false });
    }
  });

  test('claims beyond every number are the largest one', () => {
    const wild = first!.bytes.slice();
    wild.fill(0xff, 24, 56);
    expect(decodeHeader(wild)).toMatchObject({
      sound: false,
      here: Number.MAX_SAFE_INTEGER,
      lastUsable: Number.MAX_SAFE_INTEGER,
    });
    expect(decodeHeader(new Uint8Array(91))).toBeUndefined();
  });
});

describe('entries (“GPT Partition Entry”)', () => {
  test('byte by byte', () => {
    const entry = parts(512, SECTORS)[2]!.bytes.subarray(0, 128);
    expect(Buffer.from(entry.subarray(0, 32)).toString('hex')).toBe(
      '28732ac11ff8d211ba4b00a0c93ec93b' + 'fecaad0b3412674589abcdef01234567',
    );
    expect([...entry.subarray(32, 48)]).toEqual([0, 8, 0, 0, 0, 0, 0, 0, 0xff, 7, 8, 0, 0, 0, 0, 0]);
    expect([...entry.subarray(48, 56)]).toEqual([1, 0, 0, 0, 0, 0, 0, 0x80]);
    expect(Buffer.from(entry.subarray(56, 62)).toString('utf16le')).toBe('ESP');
    expect(entry.subarray(62).every((byte) => byte === 0)).toBe(true);
  });

  test('names of 36 units need no end; a pair that does not fit whole is left out', () => {
    expect(storedName('x'.repeat(40))).toHaveLength(36);
    expect(storedName(`${'x'.repeat(35)}🌊`)).toBe('x'.repeat(35));
    expect(storedName(`${'x'.repeat(34)}🌊`)).toHaveLength(36);
    const full = { ...ESP, name: 'ä'.repeat(36) };
    expect(decodeEntries(parts(512, SECTORS, [full])[2]!.bytes, 128)[0]!.name).toBe(full.name);
  });

  test('attributes have words, and bits without one keep their number', () => {
    expect(attributeWords(attributeBits(ATTRIBUTES))).toEqual([...ATTRIBUTES]);
    expect(attributeWords(1n << 48n)).toEqual(['bit 48']);
    expect(attributeBits(['grow'])).toBe(1n << 59n);
  });

  const guid = fc.uuid().filter((text) => !/^[0-]+$/.test(text));
  const entry = fc.record({
    type: guid,
    id: guid,
    first: fc.nat(),
    last: fc.nat(),
    attributes: fc.bigInt({ min: 0n, max: 2n ** 64n - 1n }),
    name: fc.string({ maxLength: 36, unit: 'grapheme' }).map((text) => storedName(text.replaceAll('\0', ''))),
  });

  test('what was encoded is decoded, at both sector sizes', () => {
    fc.assert(
      fc.property(fc.array(entry, { maxLength: 128 }), fc.constantFrom<512 | 4096>(512, 4096), (list, size) => {
        const entries = list.map((one, index) => ({ index, ...one }));
        const made = parts(size, SECTORS, entries);
        expect(decodeEntries(made[2]!.bytes, 128)).toEqual(entries);
        expect(decodeHeader(made[1]!.bytes)).toMatchObject({ sound: true });
        expect(decodeHeader(made[4]!.bytes)).toMatchObject({ sound: true, here: SECTORS - 1 });
      }),
      { numRuns: 60 },
    );
  });

  test('larger entries are read, and an array that ends inside of one', () => {
    const wide = new Uint8Array(700);
    wide.set(parts(512, SECTORS)[2]!.bytes.subarray(0, 128), 256);
    expect(decodeEntries(wide, 256)).toEqual([{ ...ESP, index: 1 }]);
  });
});
