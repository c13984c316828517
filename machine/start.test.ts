/**
 * A card that is built at the terminal starts without help: a loader reads the ext4 that it knows, and
 * the kernel's RAM disk finds the other one by its id. It still does once both were laid anew in smaller partitions.
 */
import { execFileSync } from 'node:child_process';
import { chmodSync, cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { cases } from '@tests/tier';
import { moving, resizing } from '@/core/layout/acts';
import type { Layout } from '@/core/layout/document';
import { applyEdit } from '@/core/layout/edits';
import { MIB } from '@/core/quantity/units';
import { archive } from './archive';
import { runUntilSaid } from './emulator';
import { changedBy, keptId } from './changing';
import { kernelImage, ramDiskImage } from './loader-image';
import { KERNEL_OPTIONS } from './guest';
import { filesNamed, kernelFile, starterFile, unpacked } from './packages';
import { ramDiskFiles } from './ram-disk';

let folder: string;
const at = (name: string) => path.join(folder, name);

/** First process of the root file system: tells what it sees of it. */
const INIT = `#!/bin/busybox sh
/bin/busybox mount -t proc none /proc
echo "@first process of $(/bin/busybox cat /etc/hostname)"
echo "@mounted $(/bin/busybox grep ' / ' /proc/mounts | /bin/busybox tail -n 1)"
echo "@shadow $(/bin/busybox stat -c '%a %u:%g' /etc/shadow)"
echo "@link $(/bin/busybox readlink /etc/mtab)"
/bin/busybox mount -a && echo "@table $(/bin/busybox grep -c ' /boot ext4 ' /proc/mounts)"
echo "@end"
/bin/busybox reboot -f
`;

/** A free place in memory, where the loader puts the kernel's image before it starts it. */
const KERNEL_AT = 0x8000000;

function card() {
  const ext = (more: object) => ({ kind: 'ext', version: 'ext4', ...more });
  return {
    format: 'loess-layout',
    version: 2,
    name: 'Gauge card that starts',
    date: '2026-03-01T12:00:00',
    medium: { kind: 'image', capacity: { exact: '320 MiB' }, logicalSector: 512, physicalSector: 512 },
    boots: [],
    table: { kind: 'mbr', signature: '6d617272' },
    // This loader describes the memory's caches wrongly, whatever it starts; the kernel is told to pass over that.
    entries: [
      {
        id: 'gauge',
        title: 'Gauge',
        root: 'root',
        rootBy: 'PARTUUID',
        kernel: '/kernel',
        initrd: ['/ramdisk'],
        options: `${KERNEL_OPTIONS} disable_mtrr_trim`,
      },
    ],
    slots: [
      {
        id: 'boot',
        kind: 'partition',
        name: 'Boot',
        role: 'boot',
        size: '128 MiB',
        active: true,
        mount: '/boot',
        writes: ['boot entries'],
        content: ext({ profile: 'old loaders', label: 'boot', filesFrom: 'boot' }),
      },
      {
        id: 'root',
        kind: 'partition',
        name: 'Root',
        role: 'system',
        size: 'rest',
        mount: '/',
        writes: ['mount table'],
        content: ext({ label: 'root', filesFrom: 'root.tar', times: 'of the files' }),
      },
    ],
  };
}

function loess(...args: string[]): void {
  execFileSync(process.execPath, [path.resolve('bin/loess.mjs'), ...args], {
    cwd: folder,
    stdio: ['ignore', 'ignore', 'pipe'],
  });
}

/** Runs the emulated machine from the card alone; gives what it said. */
function started(image: string): Promise<string> {
  const args = '-M pc -accel tcg -m 512 -display none -no-reboot -serial stdio -net none'.split(' ');
  const drive = ['-drive', `file=${image},format=raw,if=ide,snapshot=on`];
  return runUntilSaid({ args: [...args, '-bios', starterFile(), ...drive] }, /@end|@failed/);
}

/** Both partitions much smaller, the second one close behind the first. */
function smaller(layout: Layout): Layout {
  const SECTORS = MIB / 512;
  const acts: readonly ((now: Layout) => ReturnType<typeof resizing>)[] = [
    (now) => resizing(now, keptId(now, 0), 64 * SECTORS),
    (now) => resizing(now, keptId(now, 1), 20 * SECTORS),
    (now) => moving(now, keptId(now, 1), 66 * SECTORS),
  ];
  return acts.reduce((now, act) => {
    const done = act(now);
    if (!done.ok) throw new Error(done.error);
    return applyEdit(now, done.value.edit);
  }, layout);
}

type Card = 'as it was built' | 'laid anew';
/** Cards that this run starts: the one that comes of the other; both in the second tier. */
const CARDS = cases<readonly Card[]>(['laid anew'], ['as it was built', 'laid anew']);
const said: Partial<Record<Card, string>> = {};
beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-start-'));
  mkdirSync(at('boot'));
  writeFileSync(at('boot/kernel'), kernelImage(readFileSync(kernelFile()), KERNEL_AT));
  const init = readFileSync(path.resolve('machine/start-init.sh'));
  const ramDisk = archive([...ramDiskFiles(), { name: 'init', mode: 0o755, data: init }]);
  writeFileSync(at('boot/ramdisk'), ramDiskImage(gzipSync(ramDisk)));
  for (const name of ['etc', 'sbin', 'bin', 'proc', 'dev', 'boot']) mkdirSync(at(`root/${name}`), { recursive: true });
  writeFileSync(at('root/etc/hostname'), 'gauge-07\n');
  writeFileSync(at('root/etc/shadow'), 'secret\n');
  chmodSync(at('root/etc/shadow'), 0o640);
  symlinkSync('/proc/self/mounts', at('root/etc/mtab'));
  writeFileSync(at('root/sbin/init'), INIT);
  chmodSync(at('root/sbin/init'), 0o755);
  cpSync(filesNamed(unpacked('busybox', 'busybox-static'), (name) => name === 'busybox')[0]!, at('root/bin/busybox'));
  chmodSync(at('root/bin/busybox'), 0o755);
  execFileSync('tar', [
    '--create',
    '--file',
    at('root.tar'),
    '--directory',
    at('root'),
    '--owner=0',
    '--group=0',
    '--transform=s,^\\./,,',
    '.',
  ]);
  writeFileSync(at('card.json'), JSON.stringify(card()));
  loess('fill-in', 'card.json');
  loess('build', 'card.json', '--into', 'card.img');
  if (CARDS.includes('as it was built')) said['as it was built'] = await started(at('card.img'));
  const { placement } = await changedBy(at('card.img'), at('small.img'), 512, smaller);
  expect(placement.layout.slots).toMatchObject([{ repack: 'renumbered' }, { repack: 'renumbered' }]);
  said['laid anew'] = await started(at('small.img'));
});

afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe.each(CARDS)('the card, %s', (card) => {
  test('the loader finds the entry that Loess wrote, kernel and RAM disk in the ext4 of old loaders', () => {
    expect(said[card]).toMatch(/extlinux\.conf/);
    expect(said[card]).toContain('@root PARTUUID=6d617272-02 /dev/');
  });

  test('the first process runs from the other ext4, which is as the tar had it', () => {
    expect(said[card]).toContain('@first process of gauge-07');
    expect(said[card]).toMatch(/@mounted \S+ \/ ext4 ro/);
    expect(said[card]).toContain('@shadow 640 0:0');
    expect(said[card]).toContain('@link /proc/self/mounts');
    expect(said[card]).toContain('@table 1');
  });
});
