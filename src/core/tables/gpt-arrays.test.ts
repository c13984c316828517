/** GPTs whose array is shorter, longer or elsewhere, and sector 0 beside them, byte by byte. */
import { crc32 } from '../bytes/crc32';
import { decodeEntries, decodeHeader, encodeGpt, GPT_ENTRY_LENGTH, type Gpt, gptPlaces, type GptShape } from './gpt';
import { decodeMbr, PROTECTIVE } from './mbr';

const DISK = '6d617272-616d-4c0a-8d05-7469646573aa';
const LINUX = '0fc63daf-8483-4772-8e79-3d69d8477de4';
const SECTORS = 204_800;

const gpt = (count: number, more: Partial<Gpt> = {}): Gpt => ({
  diskId: DISK,
  entries: Array.from({ length: count }, (_, index) => ({
    index,
    type: LINUX,
    id: `6d617272-616d-4c0a-8d05-7469646500${index.toString(16).padStart(2, '0')}`,
    first: 4096 + index * 2048,
    last: 4096 + index * 2048 + 2047,
    attributes: 0n,
    name: `Slot ${index}`,
  })),
  ...more,
});

function parts(shape: GptShape, sectorSize: 512 | 4096 = 512, made = gpt(3)) {
  const all = encodeGpt(made, sectorSize, SECTORS, shape);
  const named = (what: string) => all.find((one) => one.what === what)!;
  return {
    all,
    header: named('GPT header'),
    array: named('GPT entries'),
    copy: named('GPT header, copy'),
    copyArray: named('GPT entries, copy'),
    sector0: named('protective master boot record'),
  };
}

describe('places', () => {
  test.each<[string, 512 | 4096, GptShape, number[]]>([
    ['the usual array', 512, {}, [2, 32, 34, SECTORS - 34, SECTORS - 33]],
    ['the usual array at 4096', 4096, {}, [2, 4, 6, SECTORS - 6, SECTORS - 5]],
    ['56 entries end before byte 8192', 512, { entries: 56 }, [2, 14, 16, SECTORS - 16, SECTORS - 15]],
    ['an odd number takes whole sectors', 512, { entries: 5 }, [2, 2, 4, SECTORS - 4, SECTORS - 3]],
    ['200 entries', 512, { entries: 200 }, [2, 50, 52, SECTORS - 52, SECTORS - 51]],
    ['an array before 1 MiB', 512, { array: 2016 }, [2016, 32, 2048, SECTORS - 34, SECTORS - 33]],
    ['never over the header', 512, { array: 0 }, [2, 32, 34, SECTORS - 34, SECTORS - 33]],
  ])('%s', (_, sectorSize, shape, [array, length, first, last, backup]) => {
    expect(gptPlaces(sectorSize, SECTORS, shape)).toMatchObject({
      array,
      arraySectors: length,
      firstUsable: first,
      lastUsable: last,
      backupArray: backup,
      backupHeader: SECTORS - 1,
    });
  });
});

describe.each<[string, GptShape, 512 | 4096]>([
  ['56 entries', { entries: 56 }, 512],
  ['5 entries, which do not fill their sectors', { entries: 5 }, 512],
  ['12 entries at 4096', { entries: 12 }, 4096],
  ['an array at sector 2016', { array: 2016 }, 512],
  ['200 entries at sector 300', { entries: 200, array: 300 }, 512],
])('%s', (_, shape, sectorSize) => {
  const { header, array, copy, copyArray } = parts(shape, sectorSize);
  const entries = shape.entries ?? 128;

  test('both headers are sound and say where their array is', () => {
    const [first, second] = [decodeHeader(header.bytes)!, decodeHeader(copy.bytes)!];
    expect([first.sound, second.sound]).toEqual([true, true]);
    expect([first.entries, second.entries]).toEqual([entries, entries]);
    expect([first.array, second.array]).toEqual([array.sector, copyArray.sector]);
    expect([first.here, first.other, second.here, second.other]).toEqual([1, SECTORS - 1, SECTORS - 1, 1]);
    expect(first.firstUsable).toBe(array.sector + array.bytes.length / sectorSize);
  });

  test('the checksum covers the entries, and what is left of their last sector is zero', () => {
    const covered = array.bytes.subarray(0, entries * GPT_ENTRY_LENGTH);
    expect(decodeHeader(header.bytes)!.arrayCrc).toBe(crc32(covered));
    expect(array.bytes.subarray(entries * GPT_ENTRY_LENGTH).every((byte) => byte === 0)).toBe(true);
    expect(array.bytes.length % sectorSize).toBe(0);
    expect(decodeEntries(covered, GPT_ENTRY_LENGTH)).toEqual(gpt(3).entries);
    expect([...copyArray.bytes]).toEqual([...array.bytes]);
  });
});

describe('sector 0 beside it', () => {
  const read = (bytes: Uint8Array) => {
    const mbr = decodeMbr(bytes);
    if (typeof mbr === 'string') throw new Error(mbr);
    return mbr;
  };

  test('protects the whole medium, unmarked, without a signature', () => {
    const { signature, entries } = read(parts({}).sector0.bytes);
    expect(signature).toBe(0);
    expect(entries).toEqual([{ index: 0, active: false, type: PROTECTIVE, first: 1, count: SECTORS - 1 }]);
  });

  test('may be marked', () => {
    const { entries } = read(parts({}, 512, gpt(1, { markProtective: true })).sector0.bytes);
    expect(entries.map((one) => one.active)).toEqual([true]);
  });

  test('shows partitions too: the protective entry ends before the first of them, and there is a signature', () => {
    const hybrid = [
      { active: false, type: 0x0c, first: 6144, count: 2048 },
      { active: true, type: 0x83, first: 4096, count: 2048 },
    ];
    const { signature, entries } = read(parts({}, 512, gpt(2, { hybrid })).sector0.bytes);
    expect(signature).toBe(0x6d617272);
    expect(entries).toEqual([
      { index: 0, active: false, type: PROTECTIVE, first: 1, count: 4095 },
      { index: 1, ...hybrid[0] },
      { index: 2, ...hybrid[1] },
    ]);
  });
});
