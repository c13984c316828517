/** MBR type codes: their names, and the rule that picks one for a partition. */
import { CHS_REACH } from './mbr';

/** Names of the codes met in practice. Codes that are not here are kept as they are. */
const TYPE_NAMES: Readonly<Record<number, string>> = {
  0x01: 'FAT12',
  0x04: 'FAT16 under 32 MiB',
  0x05: 'extended, CHS',
  0x06: 'FAT16',
  0x07: 'NTFS or exFAT',
  0x0b: 'FAT32 CHS',
  0x0c: 'FAT32 LBA',
  0x0e: 'FAT16 LBA',
  0x0f: 'extended, LBA',
  0x11: 'hidden FAT12',
  0x14: 'hidden FAT16 under 32 MiB',
  0x16: 'hidden FAT16',
  0x1b: 'hidden FAT32 CHS',
  0x1c: 'hidden FAT32 LBA',
  0x1e: 'hidden FAT16 LBA',
  0x27: 'recovery',
  0x82: 'Linux swap',
  0x83: 'Linux',
  0x85: 'Linux extended',
  0x8e: 'LVM',
  0xa5: 'FreeBSD',
  0xa6: 'OpenBSD',
  0xa9: 'NetBSD',
  0xaf: 'HFS',
  0xda: 'raw data',
  0xea: 'boot loader partition',
  0xee: 'GPT protective',
  0xef: 'ESP',
  0xfd: 'Linux RAID',
};

/** Codes that say FAT32, plain or hidden. */
const FAT32_CODES = [0x0b, 0x0c, 0x1b, 0x1c];
/** Codes that readers take for a FAT partition of another variant. */
const SMALLER_FAT_CODES = [0x01, 0x04, 0x06, 0x0e, 0x11, 0x14, 0x16, 0x1e];

/** `0C FAT32 LBA`; an unknown code is called so. */
export function typeName(code: number): string {
  return `${typeCode(code)} ${TYPE_NAMES[code] ?? 'unknown type'}`;
}

/** Two hexadecimal digits in upper case. */
export function typeCode(code: number): string {
  return code.toString(16).toUpperCase().padStart(2, '0');
}

/** What a type code promises about the content. */
export function promiseOf(code: number): 'fat32' | 'smaller fat' | 'esp' | 'linux' | 'swap' | 'container' | 'other' {
  if (FAT32_CODES.includes(code)) return 'fat32';
  if (SMALLER_FAT_CODES.includes(code)) return 'smaller fat';
  if (code === 0xef) return 'esp';
  if (code === 0x83) return 'linux';
  if (code === 0x82) return 'swap';
  if (code === 0x05 || code === 0x0f || code === 0x85) return 'container';
  return 'other';
}

/** Codes whose readers use cylinder addresses, with no reach beyond cylinder 1023. */
export function isCylinderCode(code: number): boolean {
  return [0x01, 0x04, 0x06, 0x0b, 0x11, 0x14, 0x16, 0x1b, 0x05].includes(code);
}

/** What decides the type code of a partition. `end` is the sector behind its last one. */
export interface TypeQuestion {
  readonly role: 'boot' | 'esp' | 'system' | 'data' | 'swap';
  readonly content: 'fat32' | 'none';
  readonly end: number;
  readonly sectorSize: number;
  /** Boards and cards expect the LBA code whatever the size. */
  readonly prefersLba: boolean;
}

/** The type code by rule, where no person chose one. */
export function typeByRule({ role, content, end, sectorSize, prefersLba }: TypeQuestion): number {
  if (role === 'esp') return 0xef;
  if (content === 'fat32') return prefersLba || sectorSize !== 512 || end > CHS_REACH ? 0x0c : 0x0b;
  return role === 'swap' ? 0x82 : 0x83;
}
