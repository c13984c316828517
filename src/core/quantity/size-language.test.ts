import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import {
  amountInBytes,
  amountInSectors,
  canonicalSize,
  describeSize,
  parseExact,
  parseSize,
  parseSizeAhead,
  SIZE_TEXT_LIMIT,
} from './size-language';
import { exactText } from './units';

/** Bytes of an exact text, or the place of its error. */
function bytes(text: string): number | string {
  const read = parseExact(text);
  return read.ok ? amountInBytes(read.value, 512) : `error at ${read.error.at}`;
}

describe('exact sizes', () => {
  test.each([
    ['512 MiB', 536_870_912],
    ['40 GB', 40_000_000_000],
    ['1.5 GiB', 1_610_612_736],
    ['2048 sectors', 1_048_576],
    ['2048 sec', 1_048_576],
    ['1 sector', 512],
    ['1500 × 1 MiB', 1_572_864_000],
    ['1500*1MiB', 1_572_864_000],
    ['1500 x 1 MiB', 1_572_864_000],
    ['90 G', 96_636_764_160],
    ['64k', 65_536],
    ['1 T', 1_099_511_627_776],
    ['14,368,768 sectors', 7_356_809_216],
    ['1_000 B', 1_000],
    ['  8   KiB ', 8_192],
    ['0.1 KiB', 103],
    ['1 PiB', 2 ** 50],
  ])('%s means %d bytes', (text, meant) => {
    expect(bytes(text)).toBe(meant);
  });

  test('a part of a sector counts as a whole one', () => {
    const read = parseExact('1.0001 KiB');
    expect(read.ok && amountInSectors(read.value, 512)).toBe(3);
  });

  test('sectors follow the sector size', () => {
    const read = parseExact('10 sectors');
    expect(read.ok && amountInBytes(read.value, 4096)).toBe(40_960);
  });
});

describe('errors point at the character', () => {
  test.each([
    ['', 0, /Say a size/],
    ['512', 3, /unit is missing/],
    ['512 Mix', 4, /“Mix” is no unit/],
    ['512 MiB extra', 8, /“extra”/],
    ['MiB', 0, /number is expected/],
    ['1,5 GiB', 1, /point/],
    ['1,000.5,5 KiB', 7, /point/],
    ['1,000,50 KiB', 5, /point/],
    ['1.2.3 GiB', 0, /one decimal point/],
    ['0 MiB', 0, /more than zero/],
    ['9000 PiB', 0, /Too large/],
    ['99999999999999999999999999 B', 0, /too many digits/],
    ['1.5 sectors', 4, /whole/],
    ['1.5 × 1 MiB', 0, /whole number/],
    ['1 MiB, at least 2 MiB', 5, /Bounds go with rest/],
    ['rest × 0', 7, /between 1 and 1000/],
    ['rest × 1.5', 7, /whole number/],
    ['rest, 5 GiB', 6, /at least/],
    ['rest, at', 8, /“least” or “most”/],
    ['rest, at least 2 GiB, at most 1 GiB', 22, /larger than the most/],
    ['rest, at least 1 GiB, at least 2 GiB', 22, /already/],
    ['rest of it', 5, /“of”/],
    ['§', 0, /number is expected/],
  ])('%j fails at %d', (text, at, message) => {
    const read = parseSize(text);
    expect(read.ok).toBe(false);
    if (read.ok) return;
    expect(read.error.at).toBe(at);
    expect(read.error.message).toMatch(message);
    expect(read.error.length).toBeGreaterThanOrEqual(1);
  });

  test('a text that is too long is refused before it is read', () => {
    const read = parseSize('1'.repeat(SIZE_TEXT_LIMIT + 1));
    expect(!read.ok && read.error.at).toBe(SIZE_TEXT_LIMIT);
  });

  test('an exact field refuses a share', () => {
    expect(bytes('rest')).toBe('error at 0');
  });
});

describe('shares', () => {
  test('weight and bounds', () => {
    const read = parseSize('Rest x 2, at most 64 GiB, at least 8 GiB');
    expect(read.ok && read.value).toMatchObject({ kind: 'rest', weight: 2 });
    if (!read.ok || read.value.kind !== 'rest') return;
    expect(amountInBytes(read.value.atLeast!, 512)).toBe(8 * 2 ** 30);
    expect(amountInBytes(read.value.atMost!, 512)).toBe(64 * 2 ** 30);
  });

  test('the meaning is said in words', () => {
    const meaning = (text: string) => {
      const read = parseSize(text);
      return read.ok ? describeSize(read.value, 512) : read.error.message;
    };
    expect(meaning('rest')).toBe('an equal share of what is left');
    expect(meaning('rest × 3')).toBe('3 shares of what is left');
    expect(meaning('256 MiB')).toBe('268,435,456 bytes · 256 MiB ≈ 268.4 MB · 524,288 sectors');
    expect(meaning('rest, at least 1 GiB')).toContain('at least 1,073,741,824 bytes');
    expect(meaning('0.1 KiB')).toContain('rounded up to whole sectors');
  });
});

describe('as people say it', () => {
  test.each([
    ['all', 'rest'],
    ['Max', 'rest'],
    ['remaining', 'rest'],
    ['the rest', 'rest'],
    ['the  rest x 2, at least 1 GiB', 'rest x 2, at least 1 GiB'],
    ['max, at most 5 GB', 'rest, at most 5 GB'],
    ['to 5000 MB', 'ending at 5000 MB'],
    ['up to 20 GiB', 'rest, at most 20 GiB'],
    ['as large as System A', 'same as System A'],
    ['as large as "The rest, of it"', 'same as "The rest, of it"'],
    ['ram', 'memory'],
    ['RAM × 1.5', 'memory × 1.5'],
  ])('%s is %s', (said, written) => {
    expect(canonicalSize(said)).toBe(written);
    expect(parseSize(said)).toEqual(parseSize(written));
    expect(parseSizeAhead(`${said}; system`)).toMatchObject({ ok: true, value: { end: said.length } });
  });

  test.each(['512 MiB', 'Rest', 'ending at 2 GiB', 'same as All', 'the', 'up 5 GiB', 'to nowhere', 'max 5', 'totally'])(
    '%s stays as it is',
    (text) => expect(canonicalSize(text)).toBe(text),
  );

  test('what is missing is asked for', () => {
    expect(parseSize('up 5 GiB')).toMatchObject({ error: { at: 3, message: expect.stringContaining('up to 20 GiB') } });
    expect(parseSize('as big as a')).toMatchObject({ error: { at: 3 } });
    expect(parseSize('the cat')).toMatchObject({ error: { at: 4 } });
    expect(parseSize('8 PiB')).toMatchObject({ error: { message: 'Too large: sizes stay below 8 PiB.' } });
  });

  test('what is read back is what was said, and written once it stays', () => {
    const words = [
      'all',
      'max',
      'the rest',
      'to',
      'up to',
      'as large as',
      'ram',
      'rest',
      '× 2',
      ', at most',
      '3 GiB',
      'a',
      '"',
    ];
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...words), { maxLength: 5 }), (said) => {
        const text = said.join(' ');
        const written = canonicalSize(text);
        expect(canonicalSize(written)).toBe(written);
        const [before, after] = [parseSize(text), parseSize(written)];
        if (before.ok) expect(after).toEqual(before);
        else expect(written).toBe(text);
      }),
    );
  });
});

test('whatever is typed, the reader answers and stays inside the text', () => {
  const alphabet = [...'0123456789.,_ ×*xGMKiBsectorat lmpd§\u0000'];
  fc.assert(
    fc.property(fc.string({ unit: fc.constantFrom(...alphabet), maxLength: 60 }), (text) => {
      const read = parseSize(text);
      if (!read.ok) expect(read.error.at).toBeLessThanOrEqual(text.length);
      else if (read.value.kind === 'exact') expect(amountInBytes(read.value.amount, 512)).toBeGreaterThan(0);
    }),
    { numRuns: 2000 },
  );
});

test('the shortest exact text means the same number of bytes', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 2 ** 45 }), fc.constantFrom(1, 512, 4096, 2 ** 20), (n, unit) => {
      const size = (n % 2 ** 30) * unit || unit;
      expect(bytes(exactText(size, 512))).toBe(size);
    }),
  );
});

test('every size in the docs is read, and other words mean what is said there', () => {
  const page = readFileSync('docs/document.md', 'utf8');
  const [, table] = /^## Sizes\n\n([^]*?)\n\n/m.exec(page)!;
  const rows = table!
    .split('\n')
    .slice(2)
    .map((row) => row.split('|')[1]!);
  const sizes = rows.flatMap((cell) => [...cell.matchAll(/`([^`]+)`/g)].map(([, text]) => text!));
  expect(sizes.length).toBeGreaterThan(20);
  for (const text of sizes) expect([text, parseSize(text).ok]).toEqual([text, true]);
});
