/** Mount tables that are written here, used by a real kernel with Debian's mount and with BusyBox; and wrong ones, refused. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { MISTAKES, OFFICE_TABLE } from '@tests/mount-mistakes';
import { cases, oneOf } from '@tests/tier';
import { checkTable } from '@/core/findings/mounts/check';
import { type MountOption, ownOptionsOf } from '@/core/findings/mounts/mount-options';
import { type MountLine, mountLines, mountTableText } from '@/core/naming/mount-table';
import type { MachineMedium } from '@/core/naming/nameable';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import { place } from '@/core/placement/place';
import { writeImage } from '@/files/image-file';
import { type GuestDisk, runGuest } from './guest';
import { programFile, withLibraries } from './ram-disk';
import { MACHINES, REFUSED } from './mount-machines';

/** What the guest said of one table. */
interface Said {
  readonly mounts: {
    point: string;
    options: string[];
    type: string;
    device: string;
    own: string[];
    root: string;
    fresh?: string;
  }[];
  readonly swaps: { device: string; priority: number }[];
  readonly says: string[];
  ended?: number;
}

let folder: string;
let said: ReadonlyMap<string, Said>;
let log: readonly string[];
/** Options that the kernel refused, each behind its type. */
let refused: readonly string[];
/** Number of the disk, by the name that the guest's kernel gave it. */
let disks: ReadonlyMap<string, number>;

/** Machines that this run starts: some with every file system, the office among them, whose mistakes are tried; all in the second tier. */
const NAMES = cases(['office', 'logger', 'partition-names', 'options', 'busybox-recorder'], Object.keys(MACHINES));
const machines = NAMES.map((name) => [name, MACHINES[name]!] as const).map(([name, layouts]) => ({
  name,
  media: layouts.map((layout): MachineMedium => ({ name: layout.name, placement: place(layout) })),
}));
const media = machines.flatMap((one) => one.media);
/** The table of the office as people write it, for the archive that is an ext2 here. */
const table = OFFICE_TABLE.replace('xfs  noatime,inode64  0 0', 'ext2  noatime  0 2');
const wrong = REFUSED.map((name) => {
  const mistake = MISTAKES.find((one) => one.name === name)!;
  const text = table.replace(mistake.right, () => mistake.wrong);
  return { mistake, text };
});

function read(text: string): void {
  const tables = new Map<string, Said>();
  const names = new Map<string, number>();
  const lines: string[] = [];
  const refusals: string[] = [];
  let now: Said = { mounts: [], swaps: [], says: [] };
  for (const line of text.split(/\r?\n/)) {
    const [mark, ...words] = line.split(' ');
    const rest = words.join(' ');
    if (mark === '@table' || mark === '@wrong') tables.set(rest, (now = { mounts: [], swaps: [], says: [] }));
    else if (mark === '@disk') names.set(words[0]!, Number(words[1]));
    else if (mark === '@mount') {
      const [point, options = '', type = '', device = '', own = ''] = words;
      now.mounts.push({ point: point!, options: options.split(','), type, device, own: own.split(','), root: '' });
    } else if (mark === '@root') now.mounts[now.mounts.length - 1]!.root = rest;
    else if (mark === '@new') now.mounts[now.mounts.length - 1]!.fresh = rest;
    else if (mark === '@swap') now.swaps.push({ device: words[0]!, priority: Number(words[1]) });
    else if (mark === '@says') now.says.push(rest);
    else if (mark === '@ended') now.ended = Number(rest);
    else if (mark === '@refused') refusals.push(rest);
    else if (mark === '@log') lines.push(rest);
  }
  [said, disks, log, refused] = [tables, names, lines, refusals];
}

/** Values that mean something: a code page that there is, where the superblock lies, a power of two. */
const SAMPLES = new Map([
  ['codepage', '437'],
  ['sb', '1'],
  ['inode_readahead_blks', '8'],
]);
/** What takes a device, a file or a feature that these volumes do not have, or another journal beside it. */
const LACKING = /^(dax|journal_dev|journal_path|usrjquota|grpjquota|prjquota|journal_async_commit)\b/;

/** A value that an option can have. */
function sample({ name, value, isOptional }: MountOption): string {
  if (value === 'none' || (isOptional && value === 'text')) return name;
  if (SAMPLES.has(name)) return `${name}=${SAMPLES.get(name)}`;
  const plain = { n: '5', octal: '0022', id: '7', size: '64k', text: 'utf8' } as const;
  return `${name}=${typeof value === 'string' ? plain[value as keyof typeof plain] : value[0]}`;
}

/** Every option of a file system that is made here, with a volume of that kind; a RAM disk has no more names. */
function optionLines(images: readonly GuestDisk[]): string {
  const letter = (of: MachineMedium) => String.fromCharCode('a'.charCodeAt(0) + media.indexOf(of));
  expect(images.length).toBeLessThanOrEqual(26);
  const lines = mountLines(media).filter(({ of }) => of.number !== undefined);
  return ['vfat', 'exfat', 'ext2', 'ext3', 'ext4']
    .flatMap((type) => {
      const { of } = lines.find((line) => line.type.text === type)!;
      return oneOf(3, ownOptionsOf(type))
        .filter(({ name }) => !LACKING.test(name))
        .map((one) => `${type} ${sample(one)} vd${letter(of.medium)}${of.number}\n`);
    })
    .join('');
}

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-mounts-'));
  const images: GuestDisk[] = [];
  for (const [i, { placement }] of media.entries()) {
    const file = path.join(folder, `${i}.img`);
    await writeImage({ placement, path: file, signal: new AbortController().signal, onProgress: () => undefined });
    images.push({ file, sectorSize: placement.sectorSize });
  }
  const text = (name: string, data: string) => ({ name, mode: 0o644, data: Buffer.from(data) });
  const programs = ['/usr/bin/mount', '/usr/sbin/swapon'].flatMap(withLibraries);
  const said = await runGuest(
    [
      programFile('begin', 'guest-mounts.sh'),
      ...programs.map((one) => (one.name.startsWith('bin/') ? { ...one, name: `debian/${one.name.slice(4)}` } : one)),
      ...machines.map((one) => text(`tables/${one.name}`, mountTableText(one.media))),
      ...wrong.map((one, i) => text(`wrong/${i}`, one.text)),
      text('wrong/none', table),
      text('options', optionLines(images)),
    ],
    images,
  );
  read(said);
});

afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('there are twelve machines and more, none with a stop, each with a table in which nothing is found', () => {
  expect(Object.keys(MACHINES).length).toBeGreaterThanOrEqual(12);
  expect(media.flatMap(({ placement }) => stopsAmong(check(placement)))).toEqual([]);
  for (const one of machines) {
    const { findings } = checkTable(mountTableText(one.media), one.media);
    // A machine of data alone has no root.
    expect(findings.filter(({ rule }) => rule !== 'table/no-root')).toEqual([]);
  }
});

/** The device of a partition, as the guest's kernel calls it. */
function deviceOf({ of }: MountLine): string {
  const disk = [...disks].find(([, number]) => media[number] === of.medium)![0];
  return `/dev/${disk}${of.number ?? ''}`;
}

/** Owner and mode of the root of what is mounted: of FAT and exFAT by the options, else as it was made. */
function rootMeant({ of, type, options }: MountLine): string {
  const words = new Map(options.map(({ text }) => text.split('=') as [string, string | undefined]));
  const { content } = of.placed.slot;
  if (content?.kind === 'ext') return `${content.rootUser ?? 0}:${content.rootGroup ?? 0} 755`;
  const mask = parseInt(words.get('dmask') ?? words.get('umask') ?? '022', 8);
  expect(['vfat', 'exfat']).toContain(type.text);
  return `${words.get('uid') ?? 0}:${words.get('gid') ?? 0} ${(0o777 & ~mask).toString(8)}`;
}

const FLAGS = ['ro', 'noatime', 'nodev', 'nosuid', 'noexec'];

describe.each(machines.map((one) => [one.name, one] as const))('%s', (name, one) => {
  const lines = mountLines(one.media);
  const prefix = name.startsWith('busybox') ? '' : `/mnt/${name}`;

  test('nothing is said against the table', () => {
    expect(said.get(name)!.says).toEqual([]);
  });

  test('everything is mounted where, as, and with what the table says', () => {
    const { mounts } = said.get(name)!;
    const wanted = lines.filter(({ point }) => point.text !== 'none');
    const found = mounts.map(({ point, device, type, root }) => ({ point, device, type, root }));
    const meant = wanted.map((line) => ({
      point: line.point.text === '/' ? prefix : prefix + line.point.text,
      device: deviceOf(line),
      type: line.type.text,
      root: rootMeant(line),
    }));
    const order = (a: { point: string }, b: { point: string }) => (a.point < b.point ? -1 : 1);
    expect(found.sort(order)).toEqual(meant.sort(order));
    for (const line of wanted) {
      const own = mounts.find(({ device }) => device === deviceOf(line))!;
      const words = line.options.map(({ text }) => text);
      for (const flag of FLAGS) expect([flag, own.options.includes(flag)]).toEqual([flag, words.includes(flag)]);
      for (const word of ['errors=remount-ro', 'data=writeback', 'flush', 'shortname=winnt', 'commit=30'])
        if (words.includes(word)) expect(own.own).toContain(word);
      // Nobody else’s files are made on FAT; on ext they are those of whoever makes them.
      const isFat = ['vfat', 'exfat'].includes(own.type);
      expect(own.fresh).toBe(words.includes('ro') ? undefined : isFat ? own.root.split(' ')[0] : '0:0');
    }
  });

  test('swap is on, the first with the highest priority', () => {
    const wanted = lines.filter(({ point }) => point.text === 'none').map(deviceOf);
    const found = [...said.get(name)!.swaps].sort((a, b) => b.priority - a.priority);
    expect(found.map(({ device }) => device)).toEqual(wanted);
  });
});

describe('tables of the office with a mistake', () => {
  test('without one it is mounted', () => {
    expect(said.get('none')).toMatchObject({ ended: 0, says: [] });
    expect(said.get('none')!.mounts).toHaveLength(6);
  });

  test.each(wrong.map((one, i) => [one.mistake.name, i] as const))('%s: found here, and refused there', (_, i) => {
    const { mistake, text } = wrong[i]!;
    expect(checkTable(text, machines[0]!.media).findings.map(({ rule }) => rule)).toContain(mistake.rule);
    const { mounts, says } = said.get(String(i))!;
    // That line is not mounted, and something is said; all others are.
    expect(mounts.length).toBeLessThan(6);
    expect(says.length).toBeGreaterThan(0);
  });
});

test('the kernel log has no complaint about a file system that was mounted rightly', () => {
  expect(log.filter((line) => /(EXT4|FAT|exfat|JBD2).*(corrupt|not properly|recover|checksum)/i.test(line))).toEqual(
    [],
  );
});

test('the kernel knows every option that the checker knows', () => {
  expect(refused).toEqual([]);
});
