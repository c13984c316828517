/** Debian packages that the machines are made of: fetched once, unpacked into the cache. */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';

export const CACHE = path.resolve('.cache', 'machine');

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

/** A Debian package, fetched once and unpacked into the cache; where it lies. */
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

/** Where Debian's kernel package lies. */
export const kernelFolder = () => unpacked('kernel', kernelPackage());

/** The kernel of the machines. */
export function kernelFile(): string {
  return filesNamed(path.join(kernelFolder(), 'boot'), (file) => file.startsWith('vmlinuz'))[0]!;
}

/** Files below a folder whose name is wanted. */
export function filesNamed(folder: string, wanted: (name: string) => boolean): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((one) => {
    const file = path.join(folder, one.name);
    if (one.isDirectory()) return filesNamed(file, wanted);
    return one.isFile() && wanted(one.name) ? [file] : [];
  });
}

/** The firmware of UEFI machines. */
export function firmwareFile(): string {
  return path.join(unpacked('firmware', 'ovmf'), 'usr', 'share', 'ovmf', 'OVMF.fd');
}

/** A program that says its name when the firmware starts it. */
export function loaderFile(): string {
  return filesNamed(unpacked('loader', 'ipxe'), (name) => name === 'ipxe.efi')[0]!;
}

/** A boot manager that reads entries of the Boot Loader Specification. */
export function bootManagerFile(): string {
  return filesNamed(unpacked('boot-manager', 'systemd-boot-efi'), (name) => name === 'systemd-bootx64.efi')[0]!;
}

/** The loader that stands in a board-like machine in the place of a firmware. */
export function starterFile(): string {
  return path.join(unpacked('loader-x86', 'u-boot-qemu'), 'usr/lib/u-boot/qemu-x86_64/u-boot.rom');
}
