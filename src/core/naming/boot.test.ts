/** What starts a system: command lines by rule and as asked, files in both forms, and where they belong. */
import { mediumOf, OFFICE_DISK, SHARE_STICK } from '@tests/machine-media';
import { fatPart, GPT_TABLE, layoutOn, NO_TABLE, part } from '@tests/samples';
import { startCombinations } from '@tests/start-combinations';
import { propose } from '../advice/propose';
import type { BootEntry, Layout } from '../layout/document';
import { applyEdit } from '../layout/edits';
import { validateLayout } from '../layout/validate';
import { bootFiles, commandLine, proposedEntries } from './boot';

const ENTRY: BootEntry = {
  id: 'normal',
  title: 'Harbour office',
  root: 'system',
  kernel: '/vmlinuz',
  initrd: ['/initrd.img'],
};
const lineOf = (entry: Partial<BootEntry>, layout: Layout = OFFICE_DISK) => {
  const { words, warnings } = commandLine({ ...ENTRY, ...entry }, mediumOf(layout));
  return { text: words.map(({ text }) => text).join(' '), warnings };
};
const SYSTEM = 'root=UUID=0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5';
const PARTITION = 'root=PARTUUID=a3f1c2d4-5b6e-4f70-8192-a3b4c5d6e7f8';

describe('the command line', () => {
  test('with an initial RAM disk the file system is named, without one the partition', () => {
    expect(lineOf({})).toEqual({ text: `${SYSTEM} ro`, warnings: [] });
    expect(lineOf({ initrd: undefined })).toEqual({ text: `${PARTITION} ro`, warnings: [] });
    expect(lineOf({ root: 'archive' }).text).toBe('root=PARTUUID=b4a2d3e5-6c7f-4081-92a3-b4c5d6e7f809 ro');
  });

  test('as asked, with a warning where it cannot work', () => {
    expect(lineOf({ rootBy: 'PARTLABEL', writable: true, options: ' quiet  panic=10 ' }).text).toBe(
      'root=PARTLABEL=System rw quiet panic=10',
    );
    const blind = lineOf({ rootBy: 'LABEL', initrd: undefined });
    expect(blind.text).toBe('root=LABEL=quay-system ro');
    expect(blind.warnings).toEqual([expect.stringContaining('an initial RAM disk alone')]);
    // What the partition does not have is not made up.
    expect(lineOf({ root: 'archive', rootBy: 'UUID' }).text).toContain('root=PARTUUID=');
  });

  test('cards and sticks are waited for; a medium without a table has a device alone', () => {
    expect(lineOf({ root: 'share' }, SHARE_STICK).text).toBe('root=UUID=51A0-0C5E rootwait ro');
    const whole = layoutOn('64 MiB', [part('all', 'rest', { content: { kind: 'left', expects: 'ext4' } })], {
      table: NO_TABLE,
    });
    expect(lineOf({ root: 'all' }, whole)).toEqual({
      text: 'root=/dev/loop0 ro',
      warnings: [expect.stringContaining('another name at every start')],
    });
  });

  test('a machine that hibernates wakes up from its largest swap', () => {
    const asleep: Layout = { ...OFFICE_DISK, machine: { use: 'server', hibernates: true } };
    expect(lineOf({}, asleep).text).toBe(`${SYSTEM} ro resume=UUID=2e8d3a1c-74ef-4d20-9c57-9c42d4a5e6f7`);
    expect(lineOf({ initrd: undefined }, asleep).text).not.toContain('resume');
    const { slots } = OFFICE_DISK;
    const awake = { ...asleep, slots: slots.filter(({ id }) => id !== 'swap') };
    expect(lineOf({}, awake).warnings).toEqual([expect.stringContaining('no swap has an id')]);
  });

  test('BusyBox in the initial RAM disk knows file systems alone', () => {
    const small: Layout = { ...OFFICE_DISK, machine: { mountTool: 'busybox' } };
    expect(lineOf({}, small)).toEqual({ text: `${SYSTEM} ro`, warnings: [] });
    expect(lineOf({ root: 'archive' }, small).warnings).toEqual([expect.stringContaining('does not know PARTUUID=')]);
  });
});

describe('files', () => {
  const entries: BootEntry[] = [
    { ...ENTRY, devicetree: '/quay.dtb', initrd: ['/microcode.img', '/initrd.img'] },
    { ...ENTRY, id: 'rescue', title: 'Rescue', initrd: undefined, options: 'single' },
  ];

  test('one an entry in the form of the specification, on the ESP or the extended boot loader partition', () => {
    const [first, second] = bootFiles(mediumOf({ ...OFFICE_DISK, entries }));
    expect(first).toMatchObject({ path: '/loader/entries/normal.conf', on: { placed: { slot: { id: 'esp' } } } });
    expect(first!.text).toBe(
      `title      Harbour office\nsort-key   01\nlinux      /vmlinuz\ninitrd     /microcode.img\ninitrd     /initrd.img\ndevicetree /quay.dtb\noptions    ${SYSTEM} ro\n`,
    );
    expect(second!.text).toContain(`options    ${PARTITION} ro single\n`);
    const boot = fatPart('boot', '512 MiB', {}, { role: 'boot', mount: '/boot' });
    const extended = bootFiles(mediumOf({ ...OFFICE_DISK, entries, slots: [boot, ...OFFICE_DISK.slots] }));
    expect(extended[0]!.on?.placed.slot.id).toBe('boot');
    const elsewhere = bootFiles(mediumOf({ ...SHARE_STICK, boots: ['uefi'], entries: [{ ...ENTRY, root: 'share' }] }));
    expect(elsewhere[0]).toMatchObject({ on: undefined });
  });

  test('all of them in one file for a board, on the partition that is marked bootable', () => {
    const board = layoutOn(
      '1 GiB',
      [fatPart('a', '64 MiB'), fatPart('b', '64 MiB', {}, { active: true }), part('system', 'rest')],
      {
        boots: ['board'],
        entries: [{ ...ENTRY, initrd: undefined, devicetree: '/gauge.dtb', kernel: '/Image' }],
      },
    );
    const [file] = bootFiles(mediumOf(board));
    expect(file).toMatchObject({ path: '/extlinux/extlinux.conf', on: { placed: { slot: { id: 'b' } } } });
    expect(file!.text).toBe(
      'DEFAULT normal\nTIMEOUT 30\n\nLABEL normal\n  LINUX /Image\n  FDT /gauge.dtb\n  APPEND root=PARTUUID=6d617272-03 ro\n',
    );
  });

  test('none without entries', () => {
    expect(bootFiles(mediumOf(OFFICE_DISK))).toEqual([]);
  });
});

describe('in the document', () => {
  test('what Start proposes gets entries that are valid, for every system', () => {
    const fresh = { signature: '6d617272', diskId: GPT_TABLE.diskId, date: '2026-03-01T12:00:00' };
    for (const answers of startCombinations().filter((_, i) => i % 211 === 0)) {
      const { layout } = propose(answers, fresh);
      const entries = proposedEntries(layout);
      const systems = layout.slots.filter(
        (slot) => slot.kind === 'partition' && (slot.role === 'system' || slot.mount === '/'),
      );
      expect(entries).toHaveLength(systems.length === 0 ? 0 : systems.length + 1);
      expect(validateLayout({ ...layout, ...(entries.length > 0 && { entries }) }).ok).toBe(true);
    }
  });

  test('names of files are taken once, whatever their case; a root is a partition; with it the entry goes', () => {
    const made: Layout = {
      ...OFFICE_DISK,
      entries: [ENTRY, { ...ENTRY, id: 'NORMAL' }, { ...ENTRY, id: 'other', root: 'nobody' }],
    };
    const read = validateLayout(made);
    expect(read.ok ? [] : read.error.map(({ path }) => path)).toEqual(['entries[1].id', 'entries[2].root']);
    const kept: Layout = { ...OFFICE_DISK, entries: [ENTRY, { ...ENTRY, id: 'b', root: 'archive' }] };
    expect(applyEdit(kept, { do: 'remove slot', id: 'archive' }).entries).toEqual([ENTRY]);
  });
});

test('a partition that becomes free space, or goes, starts nothing any more, and the document stays valid', () => {
  const layout = { ...OFFICE_DISK, entries: [ENTRY, { ...ENTRY, id: 'other', root: 'home' }] };
  const free = { id: 'system', kind: 'free', name: 'System', size: '8 GiB' } as const;
  for (const edit of [{ do: 'put slot', slot: free } as const, { do: 'remove slot', id: 'system' } as const]) {
    const after = applyEdit(layout, edit);
    expect(after.entries?.map(({ id }) => id)).toEqual(['other']);
    expect(validateLayout(JSON.parse(JSON.stringify(after)))).toMatchObject({ ok: true });
  }
});
