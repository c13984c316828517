/** UEFI firmware in an emulated machine. */
import { runUntilSaid } from './emulator';
import { drive, type GuestDisk } from './guest';
import { firmwareFile } from './packages';

/** Runs an emulated machine until it has said a word on its serial port; resolves with all that it said. */
export function runMachine(args: readonly string[], word: string): Promise<string> {
  const machine = ['-accel', 'tcg,thread=multi', '-display', 'none', '-no-reboot', '-serial', 'stdio', '-nodefaults'];
  return runUntilSaid({ args: [...machine, ...args] }, word);
}

/** Starts the firmware with one disk, and so many MiB of memory, until it has said a word. The disk is not changed unless it keeps. */
export function runFirmware(disk: GuestDisk, word: string, memory = 256): Promise<string> {
  return runMachine(['-m', String(memory), '-bios', firmwareFile(), ...drive(disk, 0)], word);
}
