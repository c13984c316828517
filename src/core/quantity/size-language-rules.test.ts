import fc from 'fast-check';
import {
  amountInBytes,
  memoryBytes,
  nameInSize,
  parseSize,
  parseSizeAhead,
  describeSize,
  shareOf,
  type SizeRule,
} from './size-language';

/** A rule, or the place and words of its error. */
function read(text: string): SizeRule | [number, string] {
  const rule = parseSize(text);
  return rule.ok ? rule.value : [rule.error.at, rule.error.message];
}

describe('rules beside exact sizes and shares', () => {
  test.each<[string, SizeRule]>([
    ['25 %', { kind: 'percent', share: { numerator: 25n, denominator: 100n } }],
    ['0.5%', { kind: 'percent', share: { numerator: 5n, denominator: 1000n } }],
    ['100 %', { kind: 'percent', share: { numerator: 100n, denominator: 100n } }],
    ['memory', { kind: 'memory', factor: { numerator: 1n, denominator: 1n } }],
    ['Memory x 1.5', { kind: 'memory', factor: { numerator: 15n, denominator: 10n } }],
    ['same as System A', { kind: 'same', as: 'System A' }],
    ['SAME AS  Log  data ', { kind: 'same', as: 'Log  data' }],
    ['same as "System, the ""first"""', { kind: 'same', as: 'System, the "first"' }],
    ['same as rest', { kind: 'same', as: 'rest' }],
  ])('%s', (text, rule) => {
    expect(read(text)).toEqual(rule);
  });

  test('a position is an amount', () => {
    const rule = read('ending at 2048 sectors');
    expect(Array.isArray(rule) ? rule : rule.kind === 'ending' && amountInBytes(rule.at, 4096)).toBe(8_388_608);
  });

  test.each<[string, number, RegExp]>([
    ['0 %', 0, /more than 0/],
    ['101 %', 0, /at most 100/],
    ['25 % of it', 5, /“of” follows/],
    ['% 25', 0, /number is expected/],
    ['memory × 0', 9, /more than 0/],
    ['memory × 1001', 9, /at most 1000/],
    ['memory × much', 9, /number is expected/],
    ['memory 2', 7, /“2” follows/],
    ['ending 20 GiB', 7, /ending at/],
    ['ending at', 9, /number is expected/],
    ['ending at rest', 10, /number is expected/],
    ['same', 4, /same as/],
    ['same as', 7, /whose size/],
    ['same as ""', 8, /has a name/],
    ['same as A, at least 1 GiB', 9, /Bounds go with rest/],
    ['25 %, at most 1 GiB', 4, /Bounds go with rest/],
    ['same as "A', 8, /whose size/],
  ])('%j fails at %d', (text, at, message) => {
    expect(read(text)).toEqual([at, expect.stringMatching(message) as string]);
  });
});

describe('a size at the start of a longer text', () => {
  const ahead = (text: string) => {
    const read = parseSizeAhead(text);
    return read.ok ? [read.value.rule.kind, text.slice(0, read.value.end)] : read.error.at;
  };

  test.each([
    ['512 MiB, FAT32', ['exact', '512 MiB']],
    ['1500 × 1 MiB FAT', ['exact', '1500 × 1 MiB']],
    ['rest, at least 1 GiB, at most 2 GiB, boot', ['rest', 'rest, at least 1 GiB, at most 2 GiB']],
    ['rest, active', ['rest', 'rest']],
    ['rest × 2 /boot', ['rest', 'rest × 2']],
    ['25 %; swap', ['percent', '25 %']],
    ['memory × 2 swap', ['memory', 'memory × 2']],
    ['same as System A, system', ['same', 'same as System A']],
    ['same as "A, B" system', ['same', 'same as "A, B"']],
    ['ending at 20 GiB, grow', ['ending', 'ending at 20 GiB']],
    ['its image, system', ['image', 'its image']],
    ['Its File; raw', ['image', 'Its File']],
    ['its size', 4],
    ['rest, at odds', 9],
    ['MiB', 0],
  ])('%s', (text, found) => {
    expect(ahead(text)).toEqual(found);
  });
});

describe('arithmetic', () => {
  test.each([
    [25n, 100n, 1_953_525_168, 488_381_292],
    [1n, 3n, 10, 3],
    [100n, 100n, 2 ** 52, 2 ** 52],
  ])('%d/%d of %d sectors', (numerator, denominator, space, share) => {
    expect(shareOf({ numerator, denominator }, space)).toBe(share);
  });

  test('a multiple of the memory is rounded up to bytes and bounded', () => {
    expect(memoryBytes({ numerator: 15n, denominator: 10n }, 2 ** 33)).toBe(12 * 2 ** 30);
    expect(memoryBytes({ numerator: 1n, denominator: 3n }, 10)).toBe(4);
    expect(memoryBytes({ numerator: 1000n, denominator: 1n }, 2 ** 52)).toBe(Number.MAX_SAFE_INTEGER);
  });

  test('any name that a slot can have reads back behind “same as”', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', minLength: 1, maxLength: 30 }), (name) => {
        fc.pre(/^[^\p{Cc}\p{Zl}\p{Zp}]+$/u.test(name));
        const rule = read(`same as ${nameInSize(name)}`);
        expect(rule).toEqual({ kind: 'same', as: name });
      }),
    );
  });
});

describe('meaning in words', () => {
  const meaning = (text: string, facts = {}) => {
    const rule = parseSize(text);
    return rule.ok ? describeSize(rule.value, 512, facts) : '';
  };

  test.each([
    ['12.5 %', {}, '12.5 % of the space between the table areas'],
    [
      '50 %',
      { space: 4096 },
      '50 % of the space between the table areas: 1,048,576 bytes · 1 MiB ≈ 1.048 MB, then down to the grain',
    ],
    ['memory', {}, 'the memory of the machine, which the layout does not say yet'],
    [
      'memory × 1.5',
      { memory: 2 ** 33 },
      '1.5 × the memory of the machine: 12,884,901,888 bytes · 12 GiB ≈ 12.88 GB · 25,165,824 sectors',
    ],
    ['same as System A', {}, 'as many sectors as System A'],
    ['its image', {}, 'as large as the image or file that is put into it'],
    ['its image', { image: 513 }, 'as large as its image: 513 bytes · 513 B · 2 sectors, rounded up to whole sectors'],
    ['ending at 1 MiB', {}, 'up to byte 1,048,576 bytes · 1 MiB ≈ 1.048 MB · 2,048 sectors; its last sector is 2,047'],
  ])('%s', (text, facts, meant) => {
    expect(meaning(text, facts)).toBe(meant);
  });
});
