/** The sheet: exact figures of everything on the medium, what is left to do, and Markdown that holds whatever names say. */
import fc from 'fast-check';
import { anyLayout } from '@tests/any/layout';
import { mediumOf, OFFICE_DISK, SHARE_STICK } from '@tests/machine-media';
import { fatPart, free, GPT_TABLE, layoutOn, part, raw } from '@tests/samples';
import { cases } from '@tests/tier';
import { check } from '../findings/layout/check';
import { stopsAmong } from '../findings/layout/finding';
import type { Layout } from '../layout/document';
import { leftToDo } from './left-to-do';
import { type BuiltImage, sheetOf } from './sheet';
import { fenced, pictureText, plain, sheetMarkdown } from './sheet-text';

const sheetFor = (layout: Layout, images: BuiltImage[] = []) => {
  const medium = mediumOf(layout);
  return sheetOf([medium], check(medium.placement), images);
};
const todo = (layout: Layout) => leftToDo(mediumOf(layout).placement).map(({ what }) => what);

test('rows cover every sector of the medium, once', () => {
  fc.assert(
    fc.property(anyLayout, (layout) => {
      const { placement } = mediumOf(layout);
      const { rows } = sheetOf([mediumOf(layout)], [], []);
      // A raw range may lie in the sectors of the table.
      const hasRaw = layout.slots.some(({ kind }) => kind === 'raw');
      if (hasRaw || stopsAmong(check(placement)).length > 0) return;
      let next = 0;
      for (const { first, last, sectors, bytes } of rows) {
        expect(first).toBe(next);
        expect(last - first + 1).toBe(sectors);
        expect(bytes).toBe(sectors * placement.sectorSize);
        next = last + 1;
      }
      expect(next).toBe(placement.sectors);
    }),
    { numRuns: cases(50, 200) },
  );
});

test('what the sheet of the office says', () => {
  const images = [{ name: 'office.img', bytes: 1_048_576, sha256: 'ab'.repeat(32), revision: 4 }];
  const medium = mediumOf(OFFICE_DISK);
  const sheet = sheetOf([medium, mediumOf(SHARE_STICK)], check(medium.placement), images);
  const text = sheetMarkdown(sheet);
  expect(sheet.rows.find(({ name }) => name === 'System')).toMatchObject({ number: 2, isSlot: true });
  expect(text).toContain('| 2 | System | System, ext4 quay-system');
  expect(text).toContain('0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5');
  // The table is that of the machine, with its other medium.
  expect(text).toContain('UUID=51A0-0C5E ');
  expect(text).toContain(`- office.img, revision 4: 1 MiB ≈ 1.048 MB, 1,048,576 B\n  SHA-256 ${'ab'.repeat(32)}`);
});

test('risks stand there with the reasons for which they were accepted, stops as such', () => {
  const layout = layoutOn('64 MiB', [fatPart('a', 'rest')], {
    boots: ['bios'],
  });
  const { risks } = sheetFor(layout);
  const [open] = risks.filter(({ severity }) => severity === 'risk');
  expect(open).toMatchObject({ reason: undefined });
  const finding = check(mediumOf(layout).placement).find(({ severity }) => severity === 'risk')!;
  const accepted = {
    ...layout,
    accepted: [{ rule: finding.rule, sentence: finding.sentence, reason: 'Harbour | only' }],
  };
  const slot = finding.place.kind === 'slot' ? { slot: finding.place.id } : {};
  const after = sheetFor({ ...accepted, accepted: [{ ...accepted.accepted[0]!, ...slot }] });
  expect(after.risks.find(({ sentence }) => sentence === finding.sentence)!.reason).toBe('Harbour | only');
  expect(sheetMarkdown(after)).toContain('Accepted: Harbour \\| only');
  expect(sheetMarkdown(sheetFor(layoutOn('64 MiB', [part('a', '90 MiB')])))).toContain('Stops a build.');
});

describe('left to do', () => {
  test('systems make what is left to them, loaders are brought, texts are put in their places', () => {
    const layout = layoutOn(
      '1 GiB',
      [
        fatPart('ESP', '100 MiB', {}, { role: 'esp', mount: '/boot' }),
        part('root', '300 MiB', { role: 'system', mount: '/', attributes: ['grow'] }),
        part('swap', '100 MiB', { role: 'swap', content: { kind: 'left', expects: 'swap' } }),
      ],
      { table: GPT_TABLE, boots: ['uefi'] },
    );
    const [copy, loader, root, grow, swap, table, ...others] = todo(layout);
    expect(others).toEqual([]);
    expect(copy).toContain('a medium of at least 1 GiB ≈ 1.073 GB with sectors of 512 B');
    expect(loader).toContain('/EFI/BOOT/BOOTX64.EFI');
    expect(root).toMatch(/^Make a file system on root \(PARTUUID [0-9a-f-]{36}\)\.$/);
    expect(grow).toContain('grow at the first start');
    expect(swap).toMatch(/^Make swap/);
    expect(table).toContain('/etc/fstab');
  });

  test('raw ranges and sector 0 are filled by somebody, unless they are', () => {
    const layout = layoutOn('64 MiB', [raw('l', '8 KiB', '64 KiB'), part('a', 'rest')], { boots: ['bios'] });
    expect(todo(layout)).toEqual([
      expect.stringContaining('Copy the image'),
      expect.stringContaining('from byte 8192 on, 64 KiB'),
      expect.stringContaining('sector 0'),
      expect.stringContaining('Make a file system'),
    ]);
    expect(todo({ ...layout, machine: { loaderFrom: 'own code' } }).join()).not.toContain('sector 0');
  });

  test('what is kept free is told to be overwritten by an image', () => {
    const layout = layoutOn('64 MiB', [free('f', '10 MiB'), part('a', 'rest')]);
    const [onto] = leftToDo(mediumOf({ ...layout, medium: { ...layout.medium, kind: 'stick' } }).placement);
    expect(onto!.why).toContain('overwritten too');
  });
});

describe('Markdown', () => {
  test('the picture has a line for each thing, as long as its share', () => {
    const { rows } = sheetFor(layoutOn('100 MiB', [part('a', '50 MiB'), part('b', 'rest')]));
    const lines = pictureText(rows).split('\n');
    expect(lines).toHaveLength(rows.length);
    expect(lines.map((line) => /^[\d, ]+([#.]+)/.exec(line)![1]!.length)).toEqual([1, 1, 24, 24]);
  });

  test.each([
    ['a | b', 'a \\| b'],
    ['<b>`x`</b>', '\\<b\\>\\`x\\`\\</b\\>'],
    ['two\nlines', 'two lines'],
    ['[a](b)', '\\[a\\](b)'],
  ])('%j is %j', (text, expected) => {
    expect(plain(text)).toBe(expected);
  });

  test('a fence is longer than any that it holds', () => {
    expect(fenced('a\n````\nb')).toBe('`````\na\n````\nb\n`````');
  });

  test('any layout has a sheet whose tables keep their columns', () => {
    fc.assert(
      fc.property(anyLayout, (layout) => {
        const text = sheetMarkdown(sheetOf([mediumOf(layout)], [], []));
        const [, sectors = ''] = /## Sectors\n\n([^]*?)\n\n## /.exec(text) ?? [];
        for (const line of sectors.split('\n')) expect(line.match(/(?<!\\)\|/g)).toHaveLength(9);
      }),
      { numRuns: cases(30, 100) },
    );
  });
});
