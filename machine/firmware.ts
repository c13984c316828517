/** UEFI firmware, and a program that it can start, from Debian's packages. */
import { spawn } from 'node:child_process';
import path from 'node:path';
import { drive, filesNamed, type GuestDisk, unpacked } from './guest';

/** The firmware for an emulated machine. */
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

/** Runs an emulated machine until it has said a word on its serial port, or the time is over; resolves with all that it said. */
export function runMachine(args: readonly string[], word: string, limit: number): Promise<string> {
  const machine = ['-accel', 'tcg,thread=multi', '-display', 'none', '-no-reboot', '-serial', 'stdio', '-nodefaults'];
  return new Promise((resolve, reject) => {
    const child = spawn('qemu-system-x86_64', [...machine, ...args], { stdio: ['pipe', 'pipe', 'pipe'] });
    let said = '';
    const timer = setTimeout(() => child.kill('SIGKILL'), limit);
    child.stdout.on('data', (chunk: Buffer) => {
      said += chunk.toString('latin1');
      if (said.includes(word)) child.kill('SIGTERM');
    });
    child.on('error', reject);
    child.on('close', () => {
      clearTimeout(timer);
      resolve(said);
    });
  });
}

/** Starts the firmware with one disk, and so many MiB of memory. It is not changed unless it keeps; resolves with all that was said up to the word. */
export function runFirmware(disk: GuestDisk, word: string, limit: number, memory = 256): Promise<string> {
  return runMachine(['-m', String(memory), '-bios', firmwareFile(), ...drive(disk, 0)], word, limit);
}
