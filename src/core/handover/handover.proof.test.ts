/** Mount tables that are written: names by rule and on request, options by situation, parents first; and lines that are added. */
import { mediumOf, OFFICE_DISK, SHARE_STICK } from '@tests/machine-media';
import { OFFICE_TABLE } from '@tests/mount-mistakes';
import { fatPart, layoutOn, NO_TABLE, part } from '@tests/samples';
import { startCombinations } from '@tests/start-combinations';
import fc from 'fast-check';
import { propose } from '../advice/propose';
import { anyLayout } from '@tests/any/layout';
import { cases } from '@tests/tier';
import type { Layout, PartitionSlot } from '../layout/document';
import { MOUNT_OPTIONS } from '../layout/vocabulary';
import { check } from '../findings/layout/check';
import { patched } from '../layout/edits';
import { stopsAmong } from '../findings/layout/finding';
import { place } from '../placement/place';
import { addedTo } from './adding';
import { checkTable } from '../findings/mounts/check';
import { identifiersOf } from './identifiers';
import { fieldsOf, mountLines, mountTableText } from '../naming/mount-table';
import { imageSteps, shellWord, stepsFor } from './steps';

const OFFICE = mediumOf(OFFICE_DISK);
const STICK = mediumOf(SHARE_STICK);
const linesOf = (...layouts: Layout[]) => mountLines(layouts.map(mediumOf)).map((line) => fieldsOf(line).join(' '));
const with_ = (layout: Layout, id: string, patch: Partial<PartitionSlot>): Layout => ({
  ...layout,
  slots: layout.slots.map((slot) => (slot.id === id ? ({ ...slot, ...patch } as PartitionSlot) : slot)),
});

test('a machine of two media: every word by rule', () => {
  expect(linesOf(OFFICE_DISK, SHARE_STICK)).toEqual([
    'UUID=0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5 / ext4 defaults 0 1',
    'UUID=1d7c2f0b-63de-4c1f-8b46-8b31c3f4d5e6 /home ext4 defaults 0 2',
    'UUID=7A1D-E5B0 /boot/efi vfat umask=0077 0 2',
    'PARTUUID=b4a2d3e5-6c7f-4081-92a3-b4c5d6e7f809 /srv/archive xfs defaults 0 0',
    'UUID=51A0-0C5E /srv/share vfat uid=1000,gid=1000,umask=0022,nofail,x-systemd.device-timeout=10s 0 2',
    'UUID=2e8d3a1c-74ef-4d20-9c57-9c42d4a5e6f7 none swap sw 0 0',
  ]);
});

describe('by situation', () => {
  const card = (slots: PartitionSlot[], more: Partial<Layout> = {}) =>
    layoutOn('1 GiB', slots, {
      medium: { kind: 'card', capacity: { exact: '1 GiB' }, logicalSector: 512, physicalSector: 512 },
      ...more,
    });
  const left = (id: string, mount: string, more: Partial<PartitionSlot> = {}) => part(id, '64 MiB', { mount, ...more });

  test('on a card nothing is written when something is read; of MBR the id is signature and number', () => {
    expect(linesOf(card([left('a', '/'), fatPart('b', '64 MiB', {}, { role: 'boot', mount: '/boot' })]))).toEqual([
      'PARTUUID=6d617272-01 / auto noatime 0 1',
      expect.stringMatching(/^UUID=[0-9A-F]{4}-[0-9A-F]{4} \/boot vfat noatime,umask=0077 0 2$/),
    ]);
  });

  test('several swap spaces have priorities, the first the highest', () => {
    const swap = (id: string) => part(id, '64 MiB', { role: 'swap', content: { kind: 'left', expects: 'swap' } });
    expect(linesOf(layoutOn('1 GiB', [swap('a'), swap('b')])).map((line) => line.split(' ')[3])).toEqual([
      'sw,pri=2',
      'sw,pri=1',
    ]);
  });

  test('what is marked read-only, or to grow, says so; the latter where the service manager knows it', () => {
    const disk = (use: 'server' | 'device') =>
      with_({ ...OFFICE_DISK, machine: { use } }, 'home', { attributes: ['grow', 'read-only'] });
    expect(linesOf(disk('server'))[1]).toContain(' ro,x-systemd.growfs ');
    expect(linesOf(disk('device'))[1]).toContain(' ro ');
  });

  test('without a table there is no id of a partition: the label is taken, or the device with a warning', () => {
    const whole = (content: PartitionSlot['content']) =>
      layoutOn('64 MiB', [part('a', 'rest', { mount: '/srv', content })], { table: NO_TABLE });
    const [line] = mountLines([mediumOf(whole({ kind: 'left', expects: 'ext4' }))]);
    expect(line).toMatchObject({ by: 'device name', source: { text: '/dev/loop0' } });
    expect(line!.warning).toContain('another name at every start');
    expect(mountTableText([mediumOf(whole({ kind: 'left', expects: 'ext4' }))])).toContain(line!.warning);
  });
});

describe('as the document asks', () => {
  test('name, options, pass and whether it may be absent', () => {
    const asked = with_(OFFICE_DISK, 'home', { mounting: { by: 'LABEL', options: 'nodev,nosuid', pass: 0 } });
    expect(linesOf(asked)[1]).toBe('LABEL=quay-home /home ext4 nodev,nosuid 0 0');
    const absent = with_(OFFICE_DISK, 'home', { mounting: { mayBeAbsent: true } });
    expect(linesOf(absent)[1]).toContain(' nofail,x-systemd.device-timeout=10s ');
    const there = with_(SHARE_STICK, 'share', { mounting: { mayBeAbsent: false } });
    expect(linesOf(OFFICE_DISK, there)[4]).not.toContain('nofail');
    expect(linesOf(with_(OFFICE_DISK, 'swap', { mounting: { leftOut: true } })).join()).not.toContain('swap');
  });

  test('a name that it does not have is not made up', () => {
    const [, , , archive] = mountLines([mediumOf(with_(OFFICE_DISK, 'archive', { mounting: { by: 'UUID' } }))]);
    expect(archive).toMatchObject({ by: 'PARTUUID' });
    expect(archive!.source.why).toContain('The layout asks for UUID, which it does not have.');
  });

  test('a label with a blank, a tab or a backslash is escaped', () => {
    const named = with_(OFFICE_DISK, 'home', {
      mounting: { by: 'LABEL' },
      content: { kind: 'ext', version: 'ext4', uuid: '1d7c2f0b-63de-4c1f-8b46-8b31c3f4d5e6', label: 'tide \\ log' },
    });
    expect(linesOf(named)[1]!.split(' ')[0]).toBe('LABEL=tide\\040\\134\\040log');
    expect(checkTable(mountTableText([mediumOf(named)]), [mediumOf(named)]).findings).toEqual([]);
  });

  test('BusyBox gets a label where there is one, and no words of the service manager', () => {
    const small = (layout: Layout): Layout => ({ ...layout, machine: { use: 'server', mountTool: 'busybox' } });
    expect(linesOf(small(OFFICE_DISK), SHARE_STICK).join()).not.toContain('x-systemd');
  });
});

describe('what is written is found to be right', () => {
  // What the layout itself lacks or asks for: names of devices, ids that two partitions share, a table without a root.
  const ofTheLayout = [
    'table/device-name',
    'table/id-twice',
    'table/no-root',
    'table/busybox',
    'table/mount-point-twice',
    'table/odd-path',
  ];
  /** Lines of the table of a layout that nothing stops; all of it by rule, for what people choose may be anything. */
  function linesFound(chosen: Layout): number {
    const slots = chosen.slots.map((slot) =>
      slot.kind === 'partition' ? patched(slot, { mounting: undefined }) : slot,
    );
    const layout = { ...chosen, slots };
    const placement = place(layout);
    if (stopsAmong(check(placement)).length > 0) return 0;
    const media = [{ name: layout.name, placement }];
    const text = mountTableText(media);
    const { findings, entries } = checkTable(text, media);
    expect(entries).toHaveLength(mountLines(media).length);
    expect(findings.filter(({ rule }) => !ofTheLayout.includes(rule))).toEqual([]);
    return entries.length;
  }

  test('for any layout', () => {
    fc.assert(
      fc.property(anyLayout, (layout) => void linesFound(layout)),
      { numRuns: cases(120, 500) },
    );
  });

  test('for every hundredth layout that Start proposes', () => {
    const fresh = {
      signature: '6d617272',
      diskId: '6d617272-616d-4c0a-8d05-7469646573aa',
      date: '2026-03-01T12:00:00',
    };
    const proposed = startCombinations().filter((_, i) => i % 101 === 0);
    const lines = proposed.reduce((sum, answers) => sum + linesFound(propose(answers, fresh).layout), 0);
    expect(lines).toBeGreaterThan(proposed.length);
  });
});

describe('lines that are added to a table', () => {
  test('stand below it under a comment, and its text stays', () => {
    const text = '# kept\r\n/dev/mapper/quay-root  /  ext4  defaults  0 1\r\n# last';
    const added = addedTo(text, [OFFICE]);
    expect(added.text.startsWith(`${text}\r\n# Added for Harbour office\r\nUUID=1d7c2f0b`)).toBe(true);
    expect(added.text.replaceAll('\r\n', '')).not.toContain('\n');
    expect(added.clashes).toMatchObject([{ line: 2, over: 'mount point', wanted: { point: { text: '/' } } }]);
    expect(added.lines).toHaveLength(4);
  });

  test('what stands there already is not added again', () => {
    const again = addedTo(OFFICE_TABLE, [OFFICE, STICK]);
    expect(again).toMatchObject({ text: OFFICE_TABLE, lines: [], clashes: [] });
    expect(again.present).toHaveLength(6);
  });

  test('a partition that is mounted elsewhere is a clash', () => {
    const elsewhere = OFFICE_TABLE.replace('/home', '/users');
    expect(addedTo(elsewhere, [OFFICE, STICK]).clashes).toMatchObject([{ line: 3, over: 'partition' }]);
  });
});

describe('by hand', () => {
  const [root, home, , , share, swap] = mountLines([OFFICE, STICK]);
  const commands = (line: typeof root) => stepsFor(line!, [OFFICE, STICK]).flatMap((step) => step.commands);

  test('a mount point is made, looked into, mounted, owned, and only then put into the table', () => {
    const all = commands(home);
    const order = [
      'mkdir -p /home',
      'ls -A /home',
      'mount -t ext4 UUID=1d7c2f0b-63de-4c1f-8b46-8b31c3f4d5e6 /home',
      'chown USER:GROUP /home',
      'cp -p /etc/fstab /etc/fstab.before',
      'systemctl daemon-reload',
      'umount /home',
      'fuser -vm /home',
    ];
    const places = order.map((one) => all.indexOf(one));
    expect(places).not.toContain(-1);
    expect(places).toEqual([...places].sort((a, b) => a - b));
  });

  test('options of the table alone are not given to mount; FAT keeps no owners; swap is used', () => {
    expect(commands(share)).toContain('mount -t vfat -o uid=1000,gid=1000,umask=0022 UUID=51A0-0C5E /srv/share');
    expect(commands(share).join()).not.toContain('chown');
    expect(commands(swap)[0]).toBe('swapon UUID=2e8d3a1c-74ef-4d20-9c57-9c42d4a5e6f7');
    expect(commands(root)).not.toContain('mkdir -p /');
  });

  test('words of a shell are quoted where they must be', () => {
    expect(shellWord("/srv/o'hara")).toBe("'/srv/o'\\''hara'");
    expect(shellWord('$(x)')).toBe("'$(x)'");
    const text = imageSteps(OFFICE, 'harbour office.img')[0]!.commands[0];
    expect(text).toBe("losetup --find --show --partscan --sector-size 512 'harbour office.img'");
  });
});

test('every id stands on the sheet with the word that belongs before it', () => {
  const [office, stick] = identifiersOf([OFFICE, STICK]);
  expect(office!.table).toEqual({ kind: 'GPT', id: '6d617272-616d-4c0a-8d05-7469646573aa' });
  expect(office!.partitions[1]!.identifiers.map(({ told }) => told)).toEqual([
    'UUID=0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5',
    'PARTUUID=a3f1c2d4-5b6e-4f70-8192-a3b4c5d6e7f8',
    'LABEL=quay-system',
    'PARTLABEL=System',
  ]);
  expect(stick!.partitions[0]!.identifiers.map(({ told }) => told)).toEqual([
    'UUID=51A0-0C5E',
    'PARTUUID=51a00c5e-01',
    'LABEL=TIDESHARE',
  ]);
});

test('options in a document are one word', () => {
  expect(MOUNT_OPTIONS.test('noatime,nofail')).toBe(true);
  expect(MOUNT_OPTIONS.test('noatime nofail')).toBe(false);
});
