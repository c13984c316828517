/**
 * Boot entries that Loess writes start a system: UEFI firmware, a boot manager that reads such entries, a real
 * kernel and its RAM disk, up to a first process that says which root it got and mounts the written mount table.
 */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { oneOf } from '@tests/tier';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { check } from '@/core/findings/layout/check';
import type { TreeEntry, TreeFile } from '@/core/filesystems/tree';
import type { BootEntry, Layout, PartitionSlot } from '@/core/layout/document';
import { copyOf } from '@/core/layout/series';
import type { Placement } from '@/core/placement/placement';
import { archive } from './archive';
import { buildFilled, TestStore } from './fill';
import { runFirmware } from './firmware';
import { bootManagerFile } from './packages';
import { KERNEL_OPTIONS } from './guest';
import { filesNamed, kernelFile, unpacked } from './packages';
import { ramDiskFiles } from './ram-disk';

/** First process: tells what it sees of its root, mounts what the table says, and ends. */
const INIT = `#!/bin/busybox sh
b=/bin/busybox
$b mount -t proc none /proc
echo "@host $($b cat /etc/hostname)"
echo "@line $($b cat /proc/cmdline)"
$b mount -a && $b grep -E ' (/boot|/srv/tides) ' /proc/mounts | while read -r device point type rest; do
  echo "@mount $point $type"
done
echo "@end"
$b reboot -f
`;

const UUIDS = { a: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', b: '1f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d6' } as const;

let folder: string;
let store: TestStore;

function file(at: string, bytes: Uint8Array | string, mode?: number): TreeFile {
  const data = typeof bytes === 'string' ? Buffer.from(bytes) : bytes;
  return { kind: 'file', path: at, size: data.length, sha256: store.shelf.add(data), ...(mode && { mode }) };
}

/** The files of a system that says its name. */
function systemFiles(name: string): TreeEntry[] {
  const busybox = filesNamed(unpacked('busybox', 'busybox-static'), (one) => one === 'busybox')[0]!;
  return [
    file('etc/hostname', `${name}\n`),
    file('etc/fstab', 'LABEL=stale /nowhere ext4 defaults 0 0\n'),
    file('sbin/init', INIT, 0o755),
    file('bin/busybox', readFileSync(busybox), 0o755),
    ...['proc', 'dev', 'boot', 'srv/tides'].map((at): TreeEntry => ({ kind: 'folder', path: at })),
  ];
}

function systemSlot(id: 'a' | 'b', more: Partial<PartitionSlot>): PartitionSlot {
  const files = store.tree(systemFiles(`system-${id}`));
  const content = { kind: 'ext', version: 'ext4', uuid: UUIDS[id], label: `system-${id}`, files } as const;
  return part(id, '32 MiB', { name: `System ${id}`, role: 'system', content, writes: ['mount table'], ...more });
}

const entry = (root: 'a' | 'b', more: Partial<BootEntry>): BootEntry => ({
  id: `system-${root}`,
  title: `System ${root}`,
  root,
  kernel: '/kernels/linux',
  initrd: ['/kernels/ramdisk'],
  options: KERNEL_OPTIONS,
  ...more,
});

/** Two systems beside each other; their kernels and entries lie on the ESP, or on an extended boot loader partition. */
function machine(entries: BootEntry[], isExtended: boolean): Layout {
  const init = readFileSync(path.resolve('machine/start-init.sh'));
  const ramDisk = gzipSync(archive([...ramDiskFiles(), { name: 'init', mode: 0o755, data: init }]));
  const kernels = [file('kernels/linux', readFileSync(kernelFile())), file('kernels/ramdisk', ramDisk)];
  const manager = file('EFI/BOOT/BOOTX64.EFI', readFileSync(bootManagerFile()));
  const writes = { writes: ['boot entries' as const], mount: '/boot' };
  const esp = (entriesToo: boolean) =>
    fatPart(
      'esp',
      '100 MiB',
      { files: store.tree(entriesToo ? [manager, ...kernels] : [manager]) },
      { role: 'esp', ...(entriesToo && writes) },
    );
  return layoutOn(
    '400 MiB',
    [
      esp(!isExtended),
      ...(isExtended
        ? [fatPart('boot', '100 MiB', { variant: 16, files: store.tree(kernels) }, { role: 'boot', ...writes })]
        : []),
      systemSlot('a', { mount: '/' }),
      systemSlot('b', {}),
      part('log', 'rest', { mount: '/srv/tides', content: { kind: 'exfat', volumeId: '7A1D-10C6' } }),
    ],
    { boots: ['uefi'], table: GPT_TABLE, entries, machine: { mountTool: 'busybox' } },
  );
}

/** Findings about what starts the machine. */
const aboutStart = (placement: Placement) =>
  check(placement)
    .filter(({ rule, severity }) => severity !== 'note' && /^(entries|mounts|written)\//.test(rule))
    .map(({ sentence }) => sentence);

beforeAll(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-entries-'));
  store = new TestStore(path.join(folder, 'store'));
});

afterAll(() => rmSync(folder, { recursive: true, force: true }));

const ALL: readonly [string, BootEntry[], boolean, number, 'a' | 'b'][] = [
  ['on the ESP, by the id of the file system', [entry('a', {}), entry('b', {})], false, 0, 'a'],
  [
    'the second system first, by the id of its partition',
    [entry('b', { rootBy: 'PARTUUID' }), entry('a', {})],
    false,
    0,
    'b',
  ],
  ['on an extended boot loader partition', [entry('b', {}), entry('a', {})], true, 0, 'b'],
  ['a copy of a series, with ids of its own', [entry('a', {}), entry('b', {})], false, 7, 'a'],
];

test.each(oneOf(4, ALL))('entries %s', async (_, entries, isExtended, copy, root) => {
  const image = path.join(folder, `${copy}-${root}-${isExtended}.img`);
  const placement = await buildFilled(copyOf(machine(entries, isExtended), copy), store, image);
  expect(aboutStart(placement)).toEqual([]);
  const said = await runFirmware({ file: image, sectorSize: 512 }, '@end', 512);
  expect(said).toContain(`@host system-${root}`);
  const { entry: placed, slot } = placement.placed.find((one) => one.slot.id === root)!;
  const { content } = slot as PartitionSlot;
  const id = entries[0]!.rootBy ? `PARTUUID=${placed!.id}` : `UUID=${content?.kind === 'ext' ? content.uuid : ''}`;
  expect(said).toContain(`root=${id} ro ${KERNEL_OPTIONS}`);
  expect(said).toContain('@mount /boot vfat');
  expect(said).toContain('@mount /srv/tides exfat');
  expect(said).not.toContain('nowhere');
});
