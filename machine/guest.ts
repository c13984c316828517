/**
 * A real Linux kernel in an emulated machine that looks at images and says what it sees. The machine is started once, up to
 * where it would look for disks, and its state is saved; each run goes on from there with disks of its own.
 */
import { createHash } from 'node:crypto';
import { existsSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { archive, type ArchiveFile } from './archive';
import { type Machine, runUntilEnded, runUntilSaid } from './emulator';
import { CACHE, kernelFile } from './packages';
import { compile, compiledFile, programFile, ramDiskFiles } from './ram-disk';

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

/** Disks that the saved machine has; those that a run does not use are empty, and its programs are on one more. */
const MOST_DISKS = 12;

/** Arguments that attach a disk: eight to a slot, so that many find room. */
function attached(i: number, drive: string, device: string): string[] {
  const slot = `addr=${(4 + Math.floor(i / 8)).toString(16)}.${i % 8},multifunction=on`;
  return [
    '-drive',
    `${drive},if=none,id=d${i},cache=unsafe`,
    '-device',
    `virtio-blk-pci,drive=d${i},${slot},${device}`,
  ];
}

/** Arguments that attach a disk; its serial says which it is, and what is done to it. */
export function drive({ file, sectorSize, keeps, fills, work = '' }: GuestDisk, i: number): string[] {
  const sectors = `logical_block_size=${sectorSize},physical_block_size=${sectorSize}`;
  const serial = `${fills ? 'fill' : 'disk'}-${work}-${i}`;
  return attached(i, `file=${file},format=raw,snapshot=${keeps ? 'off' : 'on'}`, `serial=${serial},${sectors}`);
}

/** The disk with the programs of a run. */
const programsDrive = (file: string) => attached(MOST_DISKS, `file=${file},format=raw,snapshot=on`, 'serial=programs');

/** Disks in the places that a run leaves free. */
const emptyDrives = (used: number) =>
  Array.from({ length: MOST_DISKS - used }, (_, i) =>
    attached(used + i, 'driver=null-co,size=0', 'serial=none'),
  ).flat();

/**
 * What the kernel of an emulated machine is told. Where the host is busy its timer may not tick while the kernel looks for that:
 * it would end there.
 */
export const KERNEL_OPTIONS = 'console=ttyS0 panic=-1 loglevel=4 random.trust_cpu=on no_timer_check';

const RAM_DISK = path.join(CACHE, 'ramdisk.cpio');
const STATE = path.join(CACHE, 'state');
/** The time that guests begin at, in seconds: the same in each run. */
const NOW = Date.parse('2026-06-01T12:00:00Z') / 1000;

const HARDWARE = '-accel tcg,thread=multi -m 512 -smp 2 -display none -nodefaults -no-reboot'.split(' ');

/** A machine with these disks, before it goes on from its saved state. */
function machineArgs(disks: readonly GuestDisk[], programs: string): string[] {
  if (disks.length > MOST_DISKS) throw new Error(`${disks.length} disks, and the machine has ${MOST_DISKS}.`);
  const boot = ['-kernel', kernelFile(), '-initrd', RAM_DISK, '-append', KERNEL_OPTIONS];
  const drives = [...disks.flatMap((disk, i) => drive(disk, i)), ...emptyDrives(disks.length)];
  return [...HARDWARE, '-serial', 'stdio', ...boot, ...drives, ...programsDrive(programs)];
}

/** Tells a machine by its monitor to save its state into a file, and to end. */
function save(monitor: string, file: string): void {
  const socket = connect(monitor);
  socket.on('error', () => undefined);
  socket.write(`migrate "exec:cat > '${file}'"\nquit\n`);
}

/** Starts the machine once, and saves it where it waits for its disks. */
async function saveState(): Promise<void> {
  const folder = mkdtempSync(path.join(tmpdir(), 'loess-state-'));
  const [monitor, programs, state] = ['monitor', 'programs', 'state'].map((name) => path.join(folder, name)) as [
    string,
    string,
    string,
  ];
  writeFileSync(programs, Buffer.alloc(512));
  const args = [...machineArgs([], programs), '-monitor', `unix:${monitor},server=on,wait=off`];
  let isSaving = false;
  const said = await runUntilEnded({ args }, (text) => {
    if (isSaving || !text.includes('@ready')) return;
    isSaving = true;
    save(monitor, state);
  });
  if (!existsSync(state)) throw new Error(`The machine was not saved. It said:\n${said.slice(-3000)}`);
  renameSync(state, STATE);
  rmSync(folder, { recursive: true, force: true });
}

/** Fetches what the guests need and saves their machine, before any test runs: tests run beside each other. */
export async function prepareGuests(): Promise<void> {
  const ramDisk = archive([...ramDiskFiles(), programFile('init', 'guest-start.sh')]);
  for (const name of ['ext-look', 'ext-cut']) compile(name);
  const print = createHash('sha256')
    .update(ramDisk)
    .update(readFileSync(kernelFile()))
    .update(machineArgs([], '').join(' '))
    .update(readFileSync('/usr/bin/qemu-system-x86_64'))
    .digest('hex');
  const stamp = `${STATE}.stamp`;
  if (existsSync(STATE) && existsSync(stamp) && readFileSync(stamp, 'utf8') === print) return;
  console.error('Starting the machine of the kernel tests once: about a minute.');
  rmSync(stamp, { force: true });
  writeFileSync(RAM_DISK, ramDisk);
  await saveState();
  writeFileSync(stamp, print);
}

/** Runs `work` with a machine that goes on from the saved state, with these programs and disks. */
async function withMachine<T>(
  programs: readonly ArchiveFile[],
  disks: readonly GuestDisk[],
  work: (machine: Machine) => Promise<T>,
): Promise<T> {
  const folder = mkdtempSync(path.join(tmpdir(), 'loess-guest-'));
  const file = path.join(folder, 'programs');
  const packed = archive(programs);
  writeFileSync(file, Buffer.concat([packed, Buffer.alloc((512 - (packed.length % 512)) % 512)]));
  const args = [...machineArgs(disks, file), '-incoming', `exec:cat '${STATE}'`];
  return work({ args, input: `${NOW}\n` }).finally(() => rmSync(folder, { recursive: true, force: true }));
}

/** The line with which a guest says that everything was said. */
const END = /(^|\n)@end\r?\n/;

/** Runs these programs, among them `/begin`, beside these disks; what the guest said. */
export function runGuest(programs: readonly ArchiveFile[], disks: readonly GuestDisk[]): Promise<string> {
  return withMachine(programs, disks, (machine) => runUntilSaid(machine, END));
}

/** The programs that look at disks. */
const LOOKING = (): ArchiveFile[] => [
  programFile('begin', 'guest-look.sh'),
  ...['ext-look', 'ext-cut'].map(compiledFile),
];

/** Disks in groups that a machine has room for. */
const byMachine = (disks: readonly GuestDisk[]) =>
  Array.from({ length: Math.ceil(disks.length / MOST_DISKS) }, (_, i) =>
    disks.slice(i * MOST_DISKS, (i + 1) * MOST_DISKS),
  );

/** What the kernel says about these disks; more than a machine has are looked at by one machine after another. */
export async function lookAt(disks: readonly GuestDisk[]): Promise<GuestReport> {
  const reports: GuestReport[] = [];
  for (const some of byMachine(disks)) reports.push(parse(await runGuest(LOOKING(), some)));
  return { disks: reports.flatMap((one) => one.disks), log: reports.flatMap((one) => one.log) };
}

/**
 * Runs guests that work on their disks, and ends each in the middle of that, so many milliseconds after the last of its disks
 * has something to show.
 */
export async function cutOff(disks: readonly GuestDisk[], after: number): Promise<void> {
  for (const some of byMachine(disks)) await cutMachineOff(some, after);
}

function cutMachineOff(disks: readonly GuestDisk[], after: number): Promise<void> {
  let isWorking = false;
  return withMachine(LOOKING(), disks, async (machine) => {
    const said = await runUntilEnded(machine, (text, child) => {
      if (isWorking || (text.match(/@working/g) ?? []).length < disks.length) return;
      isWorking = true;
      // eslint-disable-next-line tests/no-sleep -- any moment of the work is a good one to be cut off at
      setTimeout(() => child.kill('SIGKILL'), after);
    });
    if (!isWorking) throw new Error(`The guest did not begin. It said:\n${said.slice(-3000)}`);
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
