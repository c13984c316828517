import { alignDown, alignUp, gcd, lcm } from './integers';
import { exactText, grouped, inBinary, inBoth, inDecimal, sectorCount } from './units';

test.each([
  [0, '0 B', '0 B'],
  [512, '512 B', '512 B'],
  [1000, '1,000 B', '1 kB'],
  [1024, '1 KiB', '1.024 kB'],
  [268_435_456, '256 MiB', '268.4 MB'],
  [7_356_809_216, '6.852 GiB', '7.357 GB'],
  [2_000_398_934_016, '1.819 TiB', '2 TB'],
  [1_000_204_886_016, '931.5 GiB', '1 TB'],
])('%d bytes are %s or %s', (bytes, binary, decimal) => {
  expect(inBinary(bytes)).toBe(binary);
  expect(inDecimal(bytes)).toBe(decimal);
});

test('both families are said once where they are the same', () => {
  expect(inBoth(512)).toBe('512 B');
  expect(inBoth(1048576)).toBe('1 MiB = 1.049 MB');
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
