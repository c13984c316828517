import { readFileSync } from 'node:fs';
import { contentIdOf } from '@tests/samples';
import fc from 'fast-check';
import { anySlot } from '@tests/any/layout';
import { fatPart, free, layoutOn, part, raw } from '@tests/samples';
import { cases } from '@tests/tier';
import type { Slot } from './document';
import { applyEdit } from './edits';
import { LINE_LIMIT, readLine, slotOf } from './line';
import { type LineSlot, writeLine } from './line-write';
import { completions, readLines, describeLine } from './line-help';
import { addingLines } from './pasted';
import { validateLayout } from './validate';

/** What a line says, or where it goes wrong. */
function read(text: string): LineSlot | [number, string] {
  const line = readLine(text);
  return line.ok ? line.value : [line.error.at, line.error.message];
}

const VOLUME = '1234-ABCD';

describe('types by name', () => {
  const typed = (text: string, table?: 'mbr' | 'gpt' | 'none') => {
    const line = readLine(`a: rest, type ${text}`, table);
    return line.ok ? line.value : line.error;
  };

  test('names of one or more words, in the table of the layout', () => {
    expect(typed('LVM', 'mbr')).toMatchObject({ type: '8E' });
    expect(typed('Linux LVM, active', 'mbr')).toMatchObject({ type: '8E', active: true });
    expect(typed('linux lvm grow', 'gpt')).toMatchObject({
      type: 'e6d6d379-f507-44c2-a23c-238f2a3df928',
      attributes: ['grow'],
    });
    expect(typed('0x8e /srv', 'mbr')).toMatchObject({ type: '8E', mount: '/srv' });
  });

  test('without a table a code and a GUID stay what they are', () => {
    expect(typed('8e')).toMatchObject({ type: '8E' });
    expect(typed('E6D6D379-F507-44C2-A23C-238F2A3DF928', 'none')).toMatchObject({
      type: 'e6d6d379-f507-44c2-a23c-238f2a3df928',
    });
  });

  test('what is none is pointed at', () => {
    expect(typed('banana split', 'gpt')).toMatchObject({ at: 14, length: 6 });
    expect(typed('', 'gpt')).toMatchObject({ at: 14 });
  });
});

describe('reading', () => {
  test.each<[string, Partial<LineSlot> | object]>([
    ['Data: rest', { kind: 'partition', name: 'Data', role: 'data', size: 'rest' }],
    ['System A: 2560 MiB system /', { role: 'system', size: '2560 MiB', mount: '/' }],
    ['System B: same as System A, role system', { size: 'same as System A', role: 'system' }],
    [
      'Log: rest × 2, at least 1 GiB, at most 4 GiB, fat32, label TIDE LOG, grow',
      {
        size: 'rest × 2, at least 1 GiB, at most 4 GiB',
        content: { kind: 'fat', variant: 32, label: 'TIDE LOG' },
        attributes: ['grow'],
      },
    ],
    [
      'Boot: /boot active FAT16 cluster 4 KiB 256 MiB boot',
      {
        size: '256 MiB',
        mount: '/boot',
        active: true,
        role: 'boot',
        content: { kind: 'fat', variant: 16, cluster: '4 KiB' },
      },
    ],
    ['BIOS: BIOS boot, 1 MiB', { role: 'bios-boot', size: '1 MiB' }],
    [
      'ESP: esp; 300 MiB; FAT; root entries 512; padding root directory',
      { role: 'esp', content: { kind: 'fat', rootEntries: 512, padding: 'root directory' } },
    ],
    ['Loader: raw from 8 KiB, 504 KiB', { kind: 'raw', at: '8 KiB', length: '504 KiB' }],
    ['Code: raw, from 0, 440 B', { kind: 'raw', at: '0', length: '440 B' }],
    ['Spare: free, 25 %', { kind: 'free', size: '25 %' }],
    ['System: its image, system, /', { size: 'its image', role: 'system', mount: '/' }],
    [
      'Pinned: from 1 GiB, ending at 2 GiB, grain 64 KiB, ends on grain',
      { at: '1 GiB', size: 'ending at 2 GiB', grain: '64 KiB', endsOnGrain: true },
    ],
    [
      '"Name: with, all": memory × 1.5, swap, logical',
      { name: 'Name: with, all', size: 'memory × 1.5', logical: true },
    ],
    ['T: 1 GiB, type 0c', { type: '0C' }],
    ['T: 1 GiB, type C12A7328-F81F-11D2-BA4B-00A0C93EC93B', { type: 'c12a7328-f81f-11d2-ba4b-00a0c93ec93b' }],
    ['T: 1 GiB, mount "/srv/tide, old", required, no auto mount', undefined as unknown as object],
    [
      'T: 1 GiB, mounted at "/srv/a,b", required, no auto mount',
      { mount: '/srv/a,b', attributes: ['required', 'no auto mount'] },
    ],
  ])('%s', (text, meant) => {
    if (meant === undefined) expect(read(text)).toEqual([10, expect.stringMatching(/no blanks/) as string]);
    else expect(read(text)).toMatchObject(meant);
  });

  test.each<[string, number, RegExp]>([
    ['', 0, /name and a colon/],
    ['Data rest', 9, /name and a colon/],
    [': rest', 0, /has a name/],
    ['Data:', 5, /Say a size/],
    ['Data: 5 Mix', 8, /no unit/],
    ['Data: 1 GiB, 2 GiB', 13, /size is already said/],
    ['Data: rest, purple', 12, /“purple” is no size/],
    ['Data: rest, label TIDE', 12, /say FAT too/],
    ['Data: rest, FAT, label "TIDE', 23, /closing quote/],
    ['Data: rest, type XYZ', 17, /two hexadecimal digits/],
    ['Data: rest, FAT32, FAT16', 19, /file system is already said/],
    ['L: raw, 8 KiB', 13, /where it stands/],
    ['L: raw, from 8 KiB, rest', 20, /exact length/],
    ['L: raw, from 8 KiB, 8 KiB, FAT', 27, /A raw range has no file system/],
    ['F: free, rest, active', 15, /Free space has no active mark/],
    ['D: rest, grain 0', 15, /more than zero/],
    ['D: rest, from rest', 14, /exact size/],
    ['D: rest, FAT, root entries 0', 14, /1 to 65535/],
    ['D: rest\u0007', 7, /control/],
    [`D: ${'x'.repeat(LINE_LIMIT)}`, LINE_LIMIT, /at most 1000/],
  ])('%j fails at %d', (text, at, message) => {
    expect(read(text)).toEqual([at, expect.stringMatching(message) as string]);
  });

  test('whatever is typed, the reader answers and points inside the line', () => {
    const words = [
      'rest',
      'FAT32',
      ',',
      ':',
      ' ',
      '"',
      'label',
      '/boot',
      'from',
      '8 KiB',
      'raw',
      'same as',
      '×',
      '1',
      'active',
      '\u0000',
      'ß',
    ];
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...words), { maxLength: 20 }), (parts) => {
        const text = `A: ${parts.join(' ')}`;
        const line = readLine(text);
        if (!line.ok) expect(line.error.at).toBeLessThanOrEqual(text.length);
      }),
      { numRuns: cases(400, 2000) },
    );
  });
});

describe('writing', () => {
  test.each<[Slot, string]>([
    [part('a', 'rest'), 'a: rest'],
    [raw('l', '8 KiB', '1016 KiB'), 'l: raw, from 8 KiB, 1016 KiB'],
    [free('f', '5 %'), 'f: free, 5 %'],
    [
      fatPart('b', '256 MiB', { label: 'TIDE "N"' }, { role: 'boot', mount: '/boot', active: true, type: '0C' }),
      'b: 256 MiB, boot, FAT32, label "TIDE ""N""", /boot, active, type 0C',
    ],
  ])('%#: %j', (slot, line) => {
    expect(writeLine(slot)).toBe(line);
  });

  test('slot → line → slot is the identity, ids left alone', () => {
    fc.assert(
      fc.property(anySlot('slot-1'), (slot) => {
        const line = readLine(writeLine(slot));
        expect(line.ok).toBe(true);
        if (line.ok) expect(slotOf(line.value, slot.id, () => VOLUME, slot)).toEqual(slot);
      }),
      { numRuns: cases(400, 2000) },
    );
  });

  test('any accepted line rewrites to a canonical line that is a fixed point', () => {
    fc.assert(
      fc.property(anySlot('slot-1'), fc.nat(), (slot, seed) => {
        // The canonical line with its clauses in another order and other separators.
        const canonical = writeLine(slot);
        const first = readLine(canonical);
        if (!first.ok) throw new Error(first.error.message);
        expect(writeLine(first.value)).toBe(canonical);
        const shuffled = shuffledLine(slot, seed);
        const line = readLine(shuffled);
        if (!line.ok) throw new Error(`${shuffled}: ${line.error.message}`);
        expect(writeLine(line.value)).toBe(canonical);
      }),
      { numRuns: cases(250, 1000) },
    );
  });

  test.each([
    ['a: 1 GiB, left', { kind: 'left' }, 'a: 1 GiB, left'],
    ['a: 1 GiB, system, left for EXT4, /', { kind: 'left', expects: 'ext4' }, 'a: 1 GiB, system, left for ext4, /'],
    ['a: 1 GiB, left   for luks', { kind: 'left', expects: 'luks' }, 'a: 1 GiB, left for luks'],
    ['s: 1 GiB, swap, left for swap', { kind: 'left', expects: 'swap' }, 's: 1 GiB, swap, left for swap'],
  ])('“%s” leaves it to its system', (text, content, canonical) => {
    const said = readLine(text);
    if (!said.ok) throw new Error(said.error.message);
    expect(said.value).toMatchObject({ content });
    expect(writeLine(said.value)).toBe(canonical);
    expect(slotOf(said.value, 'a', () => VOLUME, fatPart('a', '2 GiB'))).toMatchObject({ content });
  });

  test.each([
    ['a: 1 GiB, left, FAT32', 10, /cannot be left to its system too/],
    ['a: 1 GiB, left for tape', 19, /a system makes ext2, .*raid/],
    ['a: 1 GiB, left for ', 19, /a system makes/],
    ['a: 1 GiB, left, left for ext4', 16, /already said/],
  ])('“%s” is refused at %i', (text, at, message) => {
    const read = readLine(text);
    expect(read).toMatchObject({ ok: false, error: { at } });
    expect(!read.ok && read.error.message).toMatch(message);
  });

  test('a line that says no content keeps what it has no words for, and takes away what it has', () => {
    const said = readLine('a: 1 GiB');
    if (!said.ok) throw new Error();
    const exfat = { kind: 'exfat', volumeId: VOLUME } as const;
    expect(slotOf(said.value, 'a', () => VOLUME, part('a', '2 GiB', { content: exfat }))).toMatchObject({
      content: exfat,
    });
    expect(slotOf(said.value, 'a', () => VOLUME, fatPart('a', '2 GiB'))).not.toHaveProperty('content');
    expect(slotOf(said.value, 'a', () => VOLUME, part('a', '2 GiB', { content: { kind: 'left' } }))).not.toHaveProperty(
      'content',
    );
  });

  test('a line gives a new file system an id, and keeps the one that is there', () => {
    const said = readLine('a: 1 GiB, FAT32');
    if (!said.ok) throw new Error();
    expect(slotOf(said.value, 'a', () => VOLUME)).toMatchObject({ content: { volumeId: VOLUME } });
    const before = fatPart('a', '2 GiB', {}, { partitionId: '6d617272-616d-4c0a-8d05-7469646573aa' });
    expect(slotOf(said.value, 'a', () => VOLUME, before)).toMatchObject({
      partitionId: '6d617272-616d-4c0a-8d05-7469646573aa',
      content: { volumeId: contentIdOf(before) },
    });
  });
});

/** The clauses of a slot, each as the canonical line has it, turned around; attributes keep their order. */
function shuffledLine(slot: Slot, seed: number): string {
  const bare: Slot = slot.kind === 'partition' ? { ...slot, attributes: undefined } : slot;
  const name = writeLine({ kind: 'free', name: slot.name, size: 'rest' }).replace(/: free, rest$/, '');
  const clauses: string[] = [];
  let line = writeLine(bare).slice(name.length + 2);
  const size = slot.kind === 'raw' ? slot.length : slot.size;
  // Signs that are nowhere in these clauses stand for what is taken out; the name comes to it at the end.
  const [sized, quoted] = ['§', '¤', '¶', '†', '‡', '※'].filter((sign) => !line.includes(sign)) as [string, string];
  line = line.replace(size, () => sized);
  // Quoted texts may hold commas: they are taken out first and put back at the end.
  const kept: string[] = [];
  line = line.replace(/"(?:[^"]|"")*"/g, (text) => `${quoted}${kept.push(text) - 1}${quoted}`);
  clauses.push(...line.split(', '));
  const turn = seed % clauses.length;
  const turned = [...clauses.slice(turn), ...clauses.slice(0, turn)].join(seed % 2 ? '; ' : ' ,');
  const attributes = slot.kind === 'partition' ? (slot.attributes ?? []).map((one) => `, ${one}`).join('') : '';
  const whole = turned
    .replace(new RegExp(`${quoted}(\\d+)${quoted}`, 'g'), (_, i: string) => kept[Number(i)]!)
    .replace(sized, () => size);
  return `${name} :${whole}${attributes}`;
}

describe('help', () => {
  const layout = layoutOn('4 GiB', [part('System A', '1 GiB')]);

  test('the meaning is said with figures', () => {
    const said = readLine('Tide: 25 %, FAT16, label tide share, /srv, logical, active, type 0E, grow');
    expect(said.ok && describeLine(said.value, 512, { space: 8000 })).toBe(
      'Logical partition for data; 25 % of the space between the table areas: 1,024,000 bytes · 1000 KiB = 1.024 MB, then down to the grain; FAT16, label stored as “TIDE SHARE”; mounted at /srv; marked active; type 0E FAT16 LBA; attributes grow.',
    );
    const loader = readLine('Loader: raw, from 8 KiB, 1 MiB');
    expect(loader.ok && describeLine(loader.value, 512)).toMatch(
      /^Raw range from 8,192 bytes .*length 1,048,576 bytes/,
    );
  });

  test('what is begun is completed, what is said is not offered again', () => {
    const texts = (line: string) => completions(line, line.length, layout).map((one) => one.text);
    expect(texts('A: re')).toEqual([
      'rest',
      'rest, at least ',
      'rest, at most ',
      'rest × 2',
      'reserved 5 %',
      'required',
      'read-only',
    ]);
    expect(texts('A: rest, act')).toEqual(['active']);
    expect(texts('A: active, rest, act')).toEqual([]);
    expect(texts('A: same')).toEqual(['same as System A']);
    expect(texts('A')).toEqual([]);
    expect(texts('A: rest, FAT, label "ac')).toEqual([]);
    const [first] = completions('A: rest,  /bo', 13, layout);
    expect(first).toEqual({ from: 10, text: '/boot' });
  });

  test('a pasted layout keeps its good lines and marks the bad one', () => {
    const lines = readLines('Boot: 256 MiB, FAT32\r\n\nOdd: 5 parsecs\nLog: rest');
    expect(lines.map((one) => [one.number, one.parsed?.name, one.error?.at])).toEqual([
      [1, 'Boot', undefined],
      [3, undefined, 7],
      [4, 'Log', undefined],
    ]);
    const { edit } = addingLines(
      layout,
      lines,
      lines.map(() => layout.slots[0]!.id),
    );
    const after = applyEdit(layout, edit);
    expect(after.slots.map((slot) => [slot.id, slot.name])).toEqual([
      ['System A', 'System A'],
      ['slot-2', 'Boot'],
      ['slot-3', 'Log'],
    ]);
    expect(validateLayout({ ...after, slots: after.slots.slice(1) })).toMatchObject({ ok: true });
  });
});

test('every line and every word of the page about lines is read', () => {
  const page = readFileSync('docs/lines.md', 'utf8');
  const lines = /```\n([^`]+)```/.exec(page)![1]!.trim().split('\n');
  const table = page.split('\n').filter((row) => row.startsWith('| `'));
  const words = table.flatMap((row) => [...row.split(' | ')[0]!.matchAll(/`([^`]+)`/g)].map(([, word]) => word!));
  expect(words.length).toBeGreaterThan(25);
  // Some are said of something that must be said first.
  const first = (word: string) => {
    if (/^(label|cluster|root|padding)/.test(word)) return 'FAT16, ';
    return word === 'raw' ? 'from 1 MiB, ' : '';
  };
  const said = words
    .filter((word) => word !== 'type' && word !== '0x0c')
    .map((word) => `Slot: 1 GiB, ${first(word)}${word}`);
  for (const line of [...lines, ...said]) expect([line, readLine(line, 'mbr')]).toMatchObject([line, { ok: true }]);
});

describe('ext in a line', () => {
  const uuid = '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5';
  const LINE =
    'Root: 2 GiB, system, ext4, profile old loaders, block 4 KiB, inode per 16 KiB, inode size 256, journal 64 MiB, reserved 2.5 %, check every 30 days, grows to 64 GiB, root user 1000, root group 100, tables left to the kernel, label "root", /';

  test('everything that can be said, read and written back', () => {
    const said = readLine(LINE);
    if (!said.ok) throw new Error(said.error.message);
    const slot = slotOf(said.value, 'a', () => uuid);
    expect(slot).toMatchObject({
      content: {
        kind: 'ext',
        version: 'ext4',
        profile: 'old loaders',
        block: '4 KiB',
        perInode: '16 KiB',
        inodeSize: 256,
        journal: '64 MiB',
        reserved: 2.5,
        checkDays: 30,
        growTo: '64 GiB',
        rootUser: 1000,
        rootGroup: 100,
        tables: 'left to the kernel',
        label: 'root',
        uuid,
      },
    });
    expect(writeLine(slot)).toBe(LINE);
  });

  test('none of a thing, in its words', () => {
    const said = readLine('a: rest, ext3, no journal, never grows, never checked');
    expect(said).toMatchObject({ ok: true, value: { content: { journal: 'none', growTo: 'none', checkDays: 0 } } });
  });

  test.each([
    ['a: rest, ext4, left', 'ext4 is made here: it cannot be left to its system too.'],
    ['a: rest, ext4, FAT32', 'The file system is already said.'],
    ['a: rest, no journal', 'A journal belongs to a file system: say ext4 too.'],
    ['a: rest, ext4, cluster 4 KiB', 'A cluster size belongs to a file system: say FAT too.'],
    ['a: rest, ext4, reserved 60 %', 'The reserved share is 50 at most.'],
  ])('%s is refused', (line, message) => {
    expect(readLine(line)).toMatchObject({ ok: false, error: { message } });
  });
});
