/** What the RAM disks of machines are made of. */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, statSync } from 'node:fs';
import path from 'node:path';
import type { ArchiveFile } from './archive';
import { CACHE, filesNamed, kernelFolder, unpacked } from './packages';

/** Kernel modules in the order in which they can be loaded; one that is built in is passed over. */
const MODULES = [
  'scsi_common',
  'scsi_mod',
  'libata',
  'ata_piix',
  'cdrom',
  'crct10dif_common',
  'crc-t10dif',
  'crc64',
  'crc64-rocksoft',
  't10-pi',
  'sd_mod',
  'virtio_ring',
  'virtio',
  'virtio_pci_modern_dev',
  'virtio_pci_legacy_dev',
  'virtio_pci',
  'nls_ascii',
  'nls_cp437',
  'nls_iso8859-1',
  'nls_utf8',
  'fat',
  'vfat',
  'exfat',
  'crc16',
  'crc32c_generic',
  'libcrc32c',
  'mbcache',
  'jbd2',
  'ext4',
  // Last, so that a machine can be saved before it has looked at its disks.
  'virtio_blk',
];

/** A program of this system with the shared libraries that it names. */
export function withLibraries(program: string): ArchiveFile[] {
  const needed = execFileSync('ldd', [program], { encoding: 'utf8' });
  const libraries = [...needed.matchAll(/(\/\S+) \(0x/g)].map((match) => match[1]!);
  return [program, ...libraries].map((file) => ({
    name: file === program ? `bin/${path.basename(file)}` : file.slice(1),
    mode: 0o755,
    data: readFileSync(file),
  }));
}

/** A script or program of this folder, as a file of a RAM disk. */
export const programFile = (name: string, source: string): ArchiveFile => ({
  name,
  mode: 0o755,
  data: readFileSync(path.resolve('machine', source)),
});

/** Compiles a program for a guest, which has no libraries, where its source is newer than it. */
export function compile(name: string): void {
  const [source, program] = [path.resolve('machine', `${name}.c`), path.join(CACHE, name)];
  if (existsSync(program) && statSync(program).mtimeMs > statSync(source).mtimeMs) return;
  mkdirSync(CACHE, { recursive: true });
  execFileSync('gcc', ['-static', '-O2', '-Wall', '-Werror', '-o', program, source]);
}

/** A compiled program, as a file of a RAM disk. */
export const compiledFile = (name: string): ArchiveFile => ({
  name: `bin/${name}`,
  mode: 0o755,
  data: readFileSync(path.join(CACHE, name)),
});

/** What all RAM disks have: busybox, blkid, and modules with their order. */
export function ramDiskFiles(): ArchiveFile[] {
  const busybox = path.join(unpacked('busybox', 'busybox-static'), 'bin', 'busybox');
  const modules = filesNamed(path.join(kernelFolder(), 'lib', 'modules'), (file) =>
    MODULES.includes(file.replace(/\.ko$/, '')),
  );
  const order = modules
    .map((file) => path.basename(file, '.ko'))
    .sort((a, b) => MODULES.indexOf(a) - MODULES.indexOf(b));
  return [
    { name: 'bin/busybox', mode: 0o755, data: readFileSync(busybox) },
    ...withLibraries('/usr/sbin/blkid'),
    ...modules.map((file) => ({ name: `modules/${path.basename(file)}`, mode: 0o644, data: readFileSync(file) })),
    { name: 'modules/order', mode: 0o644, data: Buffer.from(`${order.join('\n')}\n`) },
  ];
}
