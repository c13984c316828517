/** UEFI firmware, and a program that it can start, from Debian's packages. */
import path from 'node:path';
import { filesNamed, unpacked } from './guest';

/** The firmware for an emulated machine. */
export function firmwareFile(): string {
  return path.join(unpacked('firmware', 'ovmf'), 'usr', 'share', 'ovmf', 'OVMF.fd');
}

/** A program that says its name when the firmware starts it. */
export function loaderFile(): string {
  return filesNamed(unpacked('loader', 'ipxe'), (name) => name === 'ipxe.efi')[0]!;
}
