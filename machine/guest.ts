/**
 * A real Linux kernel in an emulated machine that looks at images and says what it sees.
 * Kernel and busybox come from Debian's packages; the RAM disk is made here.
 */
import { type ChildProcessWithoutNullStreams, execFileSync, spawn } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { archive, type ArchiveFile } from './archive';

const CACHE = path.resolve('.cache', 'machine');

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
  'virtio_blk',
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
];

/** Package lists may be missing or old; only an administrator can renew them. */
function refreshLists(): void {
  try {
    execFileSync('apt-get', ['update', '-q'], { stdio: 'ignore' });
  } catch {
    throw new Error(
      'The lists of Debian packages are missing or old. Run “apt-get update” as root, then the tests again.',
    );
  }
}

/** A Debian package, fetched once and unpacked into the cache. */
export function unpacked(name: string, fetchName: string): string {
  const folder = path.join(CACHE, name);
  const stamp = path.join(folder, '.complete');
  if (existsSync(stamp)) return folder;
  mkdirSync(folder, { recursive: true });
  const fetch = () => execFileSync('apt-get', ['download', '-q', fetchName], { cwd: folder, stdio: 'ignore' });
  try {
    fetch();
  } catch {
    refreshLists();
    fetch();
  }
  const deb = readdirSync(folder).find((file) => file.endsWith('.deb'))!;
  execFileSync('dpkg', ['-x', path.join(folder, deb), folder]);
  writeFileSync(stamp, '');
  return folder;
}

/** The package of the newest kernel that Debian's package `linux-image-amd64` stands for. */
function kernelPackage(): string {
  const known = path.join(CACHE, 'kernel-package');
  if (existsSync(known)) return readFileSync(known, 'utf8');
  const ask = () => execFileSync('apt-cache', ['depends', 'linux-image-amd64'], { encoding: 'utf8' });
  let answer = '';
  try {
    answer = ask();
  } catch {
    answer = '';
  }
  if (!/Depends:/.test(answer)) {
    refreshLists();
    answer = ask();
  }
  const name = /Depends: (linux-image-\S+)/.exec(answer)![1]!;
  mkdirSync(CACHE, { recursive: true });
  writeFileSync(known, name);
  return name;
}

/** Files below a folder whose name is wanted. */
export function filesNamed(folder: string, wanted: (name: string) => boolean): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((one) => {
    const file = path.join(folder, one.name);
    if (one.isDirectory()) return filesNamed(file, wanted);
    return one.isFile() && wanted(one.name) ? [file] : [];
  });
}

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

/** A program of the guest, made of its source here: it needs no library there. */
function compiled(name: string): Buffer {
  const program = path.join(CACHE, name);
  execFileSync('gcc', ['-static', '-O2', '-Wall', '-Werror', '-o', program, path.resolve('machine', `${name}.c`)]);
  return readFileSync(program);
}

/** Where the RAM disk lies. */
const RAM_DISK = path.join(CACHE, 'ramdisk.cpio');

/** What a run needs: the kernel and the RAM disk. */
interface Machine {
  readonly kernel: string;
  readonly ramDisk: string;
}

function kernelIn(image: string): string {
  return filesNamed(path.join(image, 'boot'), (file) => file.startsWith('vmlinuz'))[0]!;
}

/** The kernel of the guests. */
export function kernelFile(): string {
  return kernelIn(unpacked('kernel', kernelPackage()));
}

/** The loader that stands in the emulated machine instead of a firmware. */
export function starterFile(): string {
  return path.join(unpacked('loader-x86', 'u-boot-qemu'), 'usr/lib/u-boot/qemu-x86_64/u-boot.rom');
}

/** What RAM disks have: busybox, blkid, and modules with their order. */
export function ramDiskFiles(): ArchiveFile[] {
  const image = unpacked('kernel', kernelPackage());
  const busybox = path.join(unpacked('busybox', 'busybox-static'), 'bin', 'busybox');
  const modules = filesNamed(path.join(image, 'lib', 'modules'), (file) => MODULES.includes(file.replace(/\.ko$/, '')));
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

/** Fetches what the guests need and makes their RAM disk, before any test runs: tests run beside each other. */
export function prepareGuests(): void {
  const files: ArchiveFile[] = [
    ...ramDiskFiles(),
    ...['ext-look', 'ext-cut'].map((name) => ({ name: `bin/${name}`, mode: 0o755, data: compiled(name) })),
    { name: 'init', mode: 0o755, data: readFileSync(path.resolve('machine', 'guest-init.sh')) },
  ];
  writeFileSync(RAM_DISK, archive(files));
}

function prepared(): Machine {
  return { kernel: kernelIn(path.join(CACHE, 'kernel')), ramDisk: RAM_DISK };
}

/** A disk to attach: an image file and its logical sector size. Unless it keeps, the file is never changed. */
export interface GuestDisk {
  readonly file: string;
  readonly sectorSize: 512 | 4096;
  /** What the guest writes stays in the file. */
  readonly keeps?: boolean;
  /** Volumes of moderate size are filled to their last byte. */
  readonly fills?: boolean;
  /** What is done to ext volumes, as `ext-look.c` says; they are only looked at where it is missing. */
  readonly work?: string;
}

/** A partition as the guest's kernel sees it. Start and size in 512-byte units. */
export interface SeenPartition {
  readonly start: number;
  readonly size: number;
  readonly number: number;
  readonly facts: Readonly<Record<string, string>>;
  /** Lines about single files, where they were asked for. */
  readonly entries: readonly string[];
}

export interface SeenDisk {
  readonly sectors: number;
  readonly logicalSector: number;
  readonly partitions: readonly SeenPartition[];
}

/** What the guest said: its view of each disk, and its kernel's log. */
export interface GuestReport {
  readonly disks: readonly SeenDisk[];
  readonly log: readonly string[];
}

/** Longest time that a run may take, where nobody says another. */
const RUN_LIMIT = 8 * 60_000;

/** Arguments that attach a disk: eight to a slot, so that many find room; its serial says which it is. */
export function drive({ file, sectorSize, keeps, fills, work = '' }: GuestDisk, i: number): string[] {
  const slot = `addr=${(4 + Math.floor(i / 8)).toString(16)}.${i % 8},multifunction=on`;
  const sectors = `logical_block_size=${sectorSize},physical_block_size=${sectorSize}`;
  return [
    '-drive',
    `file=${file},format=raw,if=none,id=d${i},snapshot=${keeps ? 'off' : 'on'},cache=unsafe`,
    '-device',
    `virtio-blk-pci,drive=d${i},serial=${fills ? 'fill' : 'disk'}-${work}-${i},${slot},${sectors}`,
  ];
}

/**
 * What the kernel of an emulated machine is told. Where the host is busy its timer may not tick while the kernel looks for that:
 * it would end there.
 */
export const KERNEL_OPTIONS = 'console=ttyS0 panic=-1 loglevel=4 random.trust_cpu=on no_timer_check';

/** Starts the machine with its console on its standard output. */
function machineWith({ kernel, ramDisk }: Machine, disks: readonly GuestDisk[]): ChildProcessWithoutNullStreams {
  const drives = disks.flatMap((disk, i) => drive(disk, i));
  const machine = [
    '-accel',
    'tcg,thread=multi',
    '-m',
    '512',
    '-smp',
    '2',
    '-display',
    'none',
    '-nodefaults',
    '-no-reboot',
  ];
  const boot = ['-kernel', kernel, '-initrd', ramDisk, '-append', KERNEL_OPTIONS];
  return spawn('qemu-system-x86_64', [...machine, '-serial', 'stdio', ...boot, ...drives]);
}

/** The line with which a guest says that everything was said. */
const END = /(^|\n)@end\r?\n/;

function start(machine: Machine, disks: readonly GuestDisk[], limit: number): Promise<string> {
  return new Promise((resolve, reject) => {
    const child = machineWith(machine, disks);
    let said = '';
    let complained = '';
    let hasEnded = false;
    const timer = setTimeout(() => child.kill('SIGKILL'), limit);
    child.stdout.on('data', (chunk: Buffer) => {
      said += chunk.toString('latin1');
      hasEnded ||= END.test(said.slice(-chunk.length - 8));
      if (hasEnded) child.kill();
    });
    child.stderr.on('data', (chunk: Buffer) => (complained += chunk.toString('latin1')));
    child.on('error', reject);
    child.on('close', () => {
      clearTimeout(timer);
      if (hasEnded) resolve(said);
      else reject(new Error(`The guest ended early. It said:\n${said.slice(-3000)}\n${complained.slice(-1000)}`));
    });
  });
}

function parse(said: string): GuestReport {
  const lines = said.split(/\r?\n/);
  const disks: (SeenDisk & { place: number; partitions: SeenPartition[] })[] = [];
  for (const line of lines) {
    const [mark, ...words] = line.split(' ');
    const disk = disks[disks.length - 1];
    if (mark === '@disk')
      disks.push({
        place: Number(words[0]!.replace(/^.*-/, '')),
        sectors: Number(words[1]),
        logicalSector: Number(words[2]),
        partitions: [],
      });
    else if (mark === '@partition')
      disk!.partitions.push({
        ...{ number: Number(words[0]), start: Number(words[1]), size: Number(words[2]) },
        ...{ facts: {}, entries: [] },
      });
    else if (mark === '@entry')
      (disk!.partitions[disk!.partitions.length - 1]!.entries as string[]).push(words.join(' '));
    else if (mark === '@fact') {
      const fact = words.join(' ');
      const at = fact.indexOf('=');
      const partition = disk!.partitions[disk!.partitions.length - 1]!;
      const text = Buffer.from(fact.slice(at + 1), 'latin1').toString('utf8');
      (partition.facts as Record<string, string>)[fact.slice(0, at)] = text.replace(/\\(.)/g, '$1');
    }
  }
  const log = lines.filter((line) => line.startsWith('@log ')).map((line) => line.slice(5));
  return { disks: disks.sort((a, b) => a.place - b.place), log };
}

/** Boots the machine with a RAM disk of its own and these disks; what it said. */
export function runGuest(ramDisk: string, disks: readonly GuestDisk[], limit = RUN_LIMIT): Promise<string> {
  return start({ ...prepared(), ramDisk }, disks, limit);
}

/** Boots the machine with these disks and returns what its kernel says about them. It is ended after `limit` milliseconds. */
export async function lookAt(disks: readonly GuestDisk[], limit = RUN_LIMIT): Promise<GuestReport> {
  return parse(await start(prepared(), disks, limit));
}

/**
 * Boots the machine with disks that it works on, and ends it in the middle of that, so many milliseconds after the last of
 * them has something to show.
 */
export function cutOff(disks: readonly GuestDisk[], after: number): Promise<void> {
  return new Promise((resolve, reject) => {
    const child = machineWith(prepared(), disks);
    let said = '';
    let timer = setTimeout(() => child.kill('SIGKILL'), RUN_LIMIT);
    let isWorking = false;
    child.stdout.on('data', (chunk: Buffer) => {
      said += chunk.toString('latin1');
      if (isWorking || (said.match(/@working/g) ?? []).length < disks.length) return;
      isWorking = true;
      clearTimeout(timer);
      timer = setTimeout(() => child.kill('SIGKILL'), after);
    });
    child.on('error', reject);
    child.on('close', () => {
      clearTimeout(timer);
      if (isWorking) resolve();
      else reject(new Error(`The guest did not begin. It said:\n${said.slice(-3000)}`));
    });
  });
}
