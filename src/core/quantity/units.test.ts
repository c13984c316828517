import { alignDown, alignUp, gcd, lcm } from './integers';
import { exactText, grouped, inBinary, inBoth, inDecimal, sectorCount } from './units';

test.each([
  [0, '0 B', '0 B'],
  [512, '512 B', '512 B'],
  [1000, '1,000 B', '1 kB'],
  [1024, '1 KiB', '1.024 kB'],
  [268_435_456, '256 MiB', '≈ 268.4 MB'],
  // Never larger than it is, never whole where it is not.
  [7_356_809_216, '≈ 6.851 GiB', '≈ 7.356 GB'],
  [2_000_398_934_016, '≈ 1.819 TiB', '≈ 2.000 TB'],
  [1_000_204_886_016, '≈ 931.5 GiB', '≈ 1.000 TB'],
  [2 ** 30 + 512, '≈ 1.000 GiB', '≈ 1.073 GB'],
  [1_048_575, '≈ 1023.9 KiB', '≈ 1.048 MB'],
  [100.125 * 2 ** 20, '100.125 MiB', '≈ 104.9 MB'],
  [Number.MAX_SAFE_INTEGER, '≈ 7.999 PiB', '≈ 9.007 PB'],
])('%d bytes are %s or %s', (bytes, binary, decimal) => {
  expect(inBinary(bytes)).toBe(binary);
  expect(inDecimal(bytes)).toBe(decimal);
});

test('both families are said once where they are the same', () => {
  expect(inBoth(512)).toBe('512 B');
  expect(inBoth(1048576)).toBe('1 MiB ≈ 1.048 MB');
  expect(inBoth(3_796_000)).toBe('≈ 3.620 MiB = 3.796 MB');
  expect(inBoth(8_000_000_000, 'decimal')).toBe('8 GB ≈ 7.450 GiB');
});

test('thousands are grouped and sectors counted', () => {
  expect(grouped(14368768)).toBe('14,368,768');
  expect(grouped(123)).toBe('123');
  expect(sectorCount(1)).toBe('1 sector');
  expect(sectorCount(2048)).toBe('2,048 sectors');
});

test.each([
  [2684354560, '2560 MiB'],
  [40_000_000_000, '40 GB'],
  [8192, '8 KiB'],
  [512, '1 sector'],
  [3 * 512, '3 sectors'],
  [440, '440 B'],
])('%d bytes are written %s', (bytes, text) => {
  expect(exactText(bytes, 512)).toBe(text);
});

test('alignment and multiples', () => {
  expect([alignUp(0, 8), alignUp(1, 8), alignUp(8, 8), alignDown(15, 8)]).toEqual([0, 8, 8, 8]);
  expect([gcd(12, 18), lcm(4, 6), lcm(1048576, 1536 * 1024)]).toEqual([6, 12, 3145728]);
});
