import fc from 'fast-check';
import { CHS_REACH, chs, decodeMbr, encodable, encodeMbr, type MbrEntry, partitionId } from './mbr';

describe('cylinder addresses', () => {
  // Cylinder = LBA / 16065, head = LBA / 63 mod 255, sector = LBA mod 63 + 1.
  test.each([
    [0, [0, 1, 0]],
    [62, [0, 63, 0]],
    [63, [1, 1, 0]],
    [2048, [32, 33, 0]],
    [16065, [0, 1, 1]],
    [256 * 16065, [0, 0x41, 0]],
    [CHS_REACH - 1, [254, 0xff, 0xff]],
    [CHS_REACH, [0xfe, 0xff, 0xff]],
    [4_000_000_000, [0xfe, 0xff, 0xff]],
  ])('sector %d', (sector, bytes) => {
    expect([...chs(sector)]).toEqual(bytes);
  });

  test('they reach 8,422,686,720 bytes', () => {
    expect(CHS_REACH).toBe(16_450_560);
    expect(CHS_REACH * 512).toBe(8_422_686_720);
  });
});

describe('sector 0', () => {
  // UEFI specification, "Legacy Master Boot Record (MBR)": offsets 440, 446, 510.
  test('bytes computed by hand', () => {
    const entries: MbrEntry[] = [{ index: 1, active: true, type: 0x0c, first: 2048, count: 524288 }];
    const sector = encodeMbr({ signature: 0x6d617272, entries }, 512);
    expect([...sector.subarray(0, 440)].every((byte) => byte === 0)).toBe(true);
    expect([...sector.subarray(440, 446)]).toEqual([0x72, 0x72, 0x61, 0x6d, 0, 0]);
    expect([...sector.subarray(446, 462)]).toEqual(new Array(16).fill(0));
    // Last sector 526,335: cylinder 32, head 194, sector 34.
    expect([...sector.subarray(462, 478)]).toEqual([0x80, 32, 33, 0, 0x0c, 194, 34, 32, 0, 8, 0, 0, 0, 0, 8, 0]);
    expect([...sector.subarray(510)]).toEqual([0x55, 0xaa]);
  });

  test('4096-byte sectors hold the same 512 bytes and zeros', () => {
    const mbr = { signature: 1, entries: [] };
    const large = encodeMbr(mbr, 4096);
    expect(large.length).toBe(4096);
    expect([...large.subarray(0, 512)]).toEqual([...encodeMbr(mbr, 512)]);
    expect(large.subarray(512).every((byte) => byte === 0)).toBe(true);
  });

  test('what was encoded is decoded', () => {
    const u32 = fc.integer({ min: 1, max: 2 ** 32 - 1 });
    const entry = fc.record({ active: fc.boolean(), type: fc.integer({ min: 1, max: 255 }), first: u32, count: u32 });
    fc.assert(
      fc.property(u32, fc.array(entry, { maxLength: 4 }), (signature, found) => {
        const entries = found.map((one, index) => ({ index, ...one }));
        const decoded = decodeMbr(encodeMbr({ signature, entries }, 512));
        expect(decoded).toMatchObject({ signature, entries, code: new Uint8Array(440) });
      }),
    );
  });

  test('what is no boot record is refused', () => {
    expect(decodeMbr(new Uint8Array(511))).toBe('too short');
    expect(decodeMbr(new Uint8Array(512))).toBe('no boot record mark');
  });

  test('records are told as they stand, with odd status bytes and sizes of what is unused', () => {
    const sector = encodeMbr({ signature: 1, entries: [] }, 512);
    sector[446 + 32] = 0x7f;
    sector[446 + 44] = 9;
    const decoded = decodeMbr(sector);
    expect(decoded).toMatchObject({ entries: [] });
    expect(typeof decoded === 'string' ? [] : decoded.records[2]).toEqual({
      index: 2,
      status: 0x7f,
      type: 0,
      first: 0,
      count: 9,
    });
  });

  test('limits and ids', () => {
    expect([encodable(2 ** 32 - 1, 1), encodable(2 ** 32, 1), encodable(1, 2 ** 32)]).toEqual([true, false, false]);
    expect(partitionId(0x00ab_cdef, 1)).toBe('00abcdef-01');
    expect(partitionId(0xffffffff, 12)).toBe('ffffffff-0c');
  });
});
