/**
 * The temporary names of images that are being made. A name says which process on which start of which
 * machine writes it, so that what a dead one left can be told from what a living one writes.
 */
import { createHash } from 'node:crypto';
import { readdir, readFile, readlink, rm } from 'node:fs/promises';
import path from 'node:path';

/** Where process numbers mean the same: one start of a machine, and one space of processes in it. */
async function placeMark(): Promise<string> {
  const boot = await readFile('/proc/sys/kernel/random/boot_id', 'utf8').catch(() => '');
  const space = await readlink('/proc/self/ns/pid').catch(() => '');
  return boot && space
    ? createHash('sha256')
        .update(boot + space)
        .digest('hex')
        .slice(0, 8)
    : 'elsewhere';
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code !== 'ESRCH';
  }
}

export interface PartFile {
  readonly file: string;
  /** Folder for what has to be unpacked meanwhile. */
  readonly unpackInto: string;
  /** What lies there of builds that may go on. */
  readonly left: readonly string[];
}

/**
 * The name under which this process writes an image. What dead processes of this machine left of the
 * same image is deleted first; what cannot be known to be dead stays, and is named.
 */
export async function partFile(image: string): Promise<PartFile> {
  const here = await placeMark();
  const { dir, base } = path.parse(path.resolve(image));
  const names = await readdir(dir).catch(() => [] as string[]);
  const left: string[] = [];
  for (const name of names) {
    if (!name.startsWith(`${base}.`)) continue;
    const [, pid, mark] = /^\.(\d+)-([0-9a-z]+)\.part(?:\.d)?$/.exec(name.slice(base.length)) ?? [];
    if (pid === undefined) continue;
    const isDead = mark === here && here !== 'elsewhere' && (Number(pid) === process.pid || !isAlive(Number(pid)));
    if (isDead) await rm(path.join(dir, name), { force: true, recursive: true }).catch(() => undefined);
    else left.push(name);
  }
  const file = `${image}.${process.pid}-${here}.part`;
  return { file, unpackInto: `${file}.d`, left };
}
