/** Mount tables against layouts: every planted mistake is found where it is, and mended. */
import { mediumOf, OFFICE_DISK, SHARE_STICK } from '@tests/machine-media';
import { MISTAKES, OFFICE_TABLE } from '@tests/mount-mistakes';
import { cases } from '@tests/tier';
import fc from 'fast-check';
import { mountTableText } from '../../naming/mount-table';
import { checkTable, mended, TABLE_FINDINGS_LIMIT, TABLE_RULES } from './check';

const MEDIA = [mediumOf(OFFICE_DISK), mediumOf(SHARE_STICK)];
const rulesOf = (text: string, media = MEDIA) => checkTable(text, media).findings.map(({ rule }) => rule);

/** Line and column of a character, counted afresh. */
function placeIn(text: string, at: number) {
  const before = text.slice(0, at).split('\n');
  return { line: before.length, column: before[before.length - 1]!.length + 1 };
}

test('a table as people write it, and the one that is written here, have no finding', () => {
  expect(rulesOf(OFFICE_TABLE)).toEqual([]);
  expect(rulesOf(mountTableText(MEDIA))).toEqual([]);
});

describe('planted mistakes', () => {
  test.each(MISTAKES.map((one) => [one.name, one] as const))('%s', (_, { right, wrong, rule, at = wrong, mends }) => {
    const start = OFFICE_TABLE.indexOf(right);
    expect(start).toBeGreaterThan(0);
    const text = OFFICE_TABLE.slice(0, start) + wrong + OFFICE_TABLE.slice(start + right.length);
    const { findings } = checkTable(text, MEDIA);
    const found = findings.find((one) => one.rule === rule);
    expect(found).toBeDefined();
    expect(text.slice(found!.from, found!.to)).toBe(at);
    expect(found).toMatchObject(placeIn(text, found!.from));
    if (mends === undefined) return;
    const after = mended(text, found!.remedies[0]!);
    expect(after).toBe(OFFICE_TABLE.replace(right, () => (mends === true ? right : mends)));
    if (mends === true) expect(rulesOf(after)).toEqual([]);
  });

  test('every rule finds something in them, or in the tests below', () => {
    const elsewhere = [
      'table/too-long',
      'table/line-ends',
      'table/last-line',
      'table/id-twice',
      'table/busybox',
      'table/order',
      'table/source-twice',
      'table/slot-missing',
    ];
    const met = new Set([...MISTAKES.map(({ rule }) => rule), ...elsewhere]);
    expect(TABLE_RULES.map(({ id }) => id).filter((id) => !met.has(id))).toEqual([]);
  });
});

describe('lines together', () => {
  const [, , , , archive] = OFFICE_TABLE.split('\n');

  test('what lies in another is mounted behind it, and a remedy exchanges the lines', () => {
    const lines = OFFICE_TABLE.split('\n');
    const turned = [lines[0], lines[4], lines[1], ...lines.slice(2, 4), ...lines.slice(5)].join('\n');
    const { findings } = checkTable(turned, MEDIA);
    expect(findings).toMatchObject([{ rule: 'table/order', line: 2, column: archive!.indexOf('/srv') + 1 }]);
    const after = mended(turned, findings[0]!.remedies[0]!);
    expect(rulesOf(after)).toEqual([]);
    expect(after.split('\n').sort()).toEqual(lines.sort());
  });

  test('a partition on two lines, unless one is bound to the other', () => {
    const again = (options: string) =>
      `${OFFICE_TABLE}${archive!.replace('/srv/archive', '/mnt').replace('noatime,inode64', options)}\n`;
    expect(rulesOf(again('noatime'))).toContain('table/source-twice');
    expect(rulesOf(again('bind'))).not.toContain('table/source-twice');
  });

  test('a partition that no line names is told, and its line added', () => {
    const text = OFFICE_TABLE.replace(`${archive}\n`, '');
    const { findings } = checkTable(text, MEDIA);
    expect(findings).toMatchObject([{ rule: 'table/slot-missing', severity: 'note', line: 8 }]);
    expect(rulesOf(mended(text, findings[0]!.remedies[0]!))).toEqual([]);
  });

  test('the root that is missing is added', () => {
    const text = OFFICE_TABLE.replace(/^UUID=0f6c.*\n/m, '');
    const [found] = checkTable(text, MEDIA).findings;
    expect(found).toMatchObject({ rule: 'table/no-root', severity: 'stop' });
    const after = mended(text, found!.remedies[0]!);
    expect(after.startsWith(text)).toBe(true);
    // It stands at the end now, below what lies in it.
    expect(new Set(rulesOf(after))).toEqual(new Set(['table/order']));
  });
});

test('the same id on two media is told with both', () => {
  const twin = mediumOf({ ...SHARE_STICK, name: 'Second stick' });
  const { findings } = checkTable(OFFICE_TABLE, [...MEDIA, twin]);
  const found = findings.find(({ rule }) => rule === 'table/id-twice');
  expect(found).toMatchObject({ line: 6, column: 1 });
  expect(found!.sentence).toContain('Share of Share stick and Share of Second stick');
});

test('BusyBox knows no ids of partitions', () => {
  const small = mediumOf({ ...OFFICE_DISK, machine: { mountTool: 'busybox' } });
  const { findings } = checkTable(OFFICE_TABLE, [small, MEDIA[1]!]);
  expect(findings).toMatchObject([{ rule: 'table/busybox', line: 5, column: 1, remedies: [] }]);
});

describe('bad input', () => {
  test('CR and LF at the ends of lines are told once, and taken out', () => {
    const text = OFFICE_TABLE.replaceAll('\n', '\r\n');
    const { findings } = checkTable(text, MEDIA);
    expect(findings).toMatchObject([{ rule: 'table/line-ends', line: 2 }]);
    expect(mended(text, findings[0]!.remedies[0]!)).toBe(OFFICE_TABLE);
  });

  test('a last line without an end', () => {
    const { findings } = checkTable(OFFICE_TABLE.trimEnd(), MEDIA);
    expect(findings).toMatchObject([{ rule: 'table/last-line' }]);
    expect(mended(OFFICE_TABLE.trimEnd(), findings[0]!.remedies[0]!)).toBe(OFFICE_TABLE);
  });

  test('tabs, blanks ahead, quotes behind UUID= and links below /dev/disk are read', () => {
    const text = OFFICE_TABLE.replaceAll('  ', '\t')
      .replace('UUID=7A1D-E5B0', '  UUID="7A1D-E5B0"')
      .replace('PARTUUID=', '/dev/disk/by-partuuid/');
    expect(rulesOf(text)).toEqual([]);
  });

  test('ten thousand lines are checked; more than are read of a table are told', () => {
    const many = Array.from(
      { length: 10_000 },
      (_, i) => `UUID=${String(i).padStart(8, '0')}-0000-4000-8000-000000000000 /srv/${i} ext4 noatme 0 2`,
    );
    const { findings, more, entries } = checkTable(many.join('\n'), MEDIA);
    expect(entries).toHaveLength(10_000);
    expect(findings).toHaveLength(TABLE_FINDINGS_LIMIT);
    expect(more).toBeGreaterThan(19_000);
    expect(rulesOf('a /a ext4 ro 0 2\n'.repeat(30_000))).toContain('table/mount-point-twice');
    expect(checkTable('# none\n'.repeat(20_001) + OFFICE_TABLE, MEDIA).findings.map(({ rule }) => rule)).toContain(
      'table/too-long',
    );
  });

  test('any text is read, in its bounds, and every remedy can be applied', () => {
    const line = fc.array(
      fc.oneof(
        fc.constantFrom(...OFFICE_TABLE.split(/\s+/), '"', '\\', '#', 'UUID=', ',', '\r', '\u0000'),
        fc.string({ maxLength: 8 }),
      ),
      { maxLength: 9 },
    );
    const table = fc
      .array(
        line.map((words) => words.join(' ')),
        { maxLength: 12 },
      )
      .map((lines) => lines.join('\n'));
    fc.assert(
      fc.property(table, (text) => {
        for (const { line: at, column, from, to, remedies } of checkTable(text, MEDIA).findings) {
          expect({ line: at, column }).toEqual(placeIn(text, from));
          expect(to).toBeGreaterThanOrEqual(from);
          expect(to).toBeLessThanOrEqual(text.length);
          for (const one of remedies) expect(mended(text, one)).not.toBe(text);
        }
      }),
      { numRuns: cases(250, 1000) },
    );
  });
});
