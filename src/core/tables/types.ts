/**
 * Partition types of both tables: two hexadecimal digits on MBR (`0C`), a GUID on GPT. Their
 * names, what they promise about the content, and the rule that picks one for a partition.
 * Types that are not listed are kept as they are.
 */
import { MIB } from '../quantity/units';
import { CHS_REACH } from './mbr';
import { isGuid } from './gpt';

/** What a type says about the content. */
export type TypePromise =
  | 'fat12'
  | 'fat16'
  | 'fat32'
  | 'basic data'
  | 'esp'
  | 'extended boot'
  | 'bios boot'
  | 'linux'
  | 'swap'
  | 'container'
  /** Another layer is inside: encryption, a volume manager, RAID. */
  | 'layered'
  | 'protective'
  | 'other';

interface Known {
  readonly type: string;
  readonly name: string;
  readonly promise: TypePromise;
}

const known = (type: string, name: string, promise: TypePromise = 'other'): Known => ({ type, name, promise });

const KNOWN: readonly Known[] = [
  known('01', 'FAT12', 'fat12'),
  known('04', 'FAT16 under 32 MiB', 'fat16'),
  known('05', 'extended, CHS', 'container'),
  known('06', 'FAT16', 'fat16'),
  known('07', 'NTFS or exFAT'),
  known('0B', 'FAT32 CHS', 'fat32'),
  known('0C', 'FAT32 LBA', 'fat32'),
  known('0E', 'FAT16 LBA', 'fat16'),
  known('0F', 'extended, LBA', 'container'),
  known('11', 'hidden FAT12', 'fat12'),
  known('14', 'hidden FAT16 under 32 MiB', 'fat16'),
  known('16', 'hidden FAT16', 'fat16'),
  known('1B', 'hidden FAT32 CHS', 'fat32'),
  known('1C', 'hidden FAT32 LBA', 'fat32'),
  known('1E', 'hidden FAT16 LBA', 'fat16'),
  known('27', 'recovery'),
  known('82', 'Linux swap', 'swap'),
  known('83', 'Linux', 'linux'),
  known('85', 'Linux extended', 'container'),
  known('8E', 'LVM', 'layered'),
  known('A5', 'FreeBSD'),
  known('A6', 'OpenBSD'),
  known('A9', 'NetBSD'),
  known('AF', 'HFS'),
  known('DA', 'raw data'),
  known('E8', 'LUKS', 'layered'),
  known('EA', 'boot loader partition', 'extended boot'),
  known('EE', 'GPT protective', 'protective'),
  known('EF', 'ESP', 'esp'),
  known('FD', 'Linux RAID', 'layered'),
  known('c12a7328-f81f-11d2-ba4b-00a0c93ec93b', 'ESP', 'esp'),
  known('21686148-6449-6e6f-744e-656564454649', 'BIOS boot', 'bios boot'),
  known('bc13c2ff-59e6-4262-a352-b275fd6f7172', 'extended boot loader', 'extended boot'),
  known('0fc63daf-8483-4772-8e79-3d69d8477de4', 'Linux data', 'linux'),
  known('0657fd6d-a4ab-43c4-84e5-0933c84b4f4f', 'Linux swap', 'swap'),
  known('933ac7e1-2eb4-4f13-b844-0e14e2aef915', 'Linux home', 'linux'),
  known('3b8f8425-20e0-4f3b-907f-1a25a76f98e8', 'Linux server data', 'linux'),
  known('4d21b016-b534-45c2-a9fb-5c16e091fd2d', 'Linux variable data', 'linux'),
  known('7ec6f557-3bc5-4aca-b293-16ef5df639d1', 'Linux temporary data', 'linux'),
  known('773f91ef-66d4-49b5-bd83-d683bf40ad16', 'Linux home of one user', 'linux'),
  known('8484680c-9521-48c6-9c11-b0720656f69e', 'Linux /usr, x86-64', 'linux'),
  known('b0e01050-ee5f-4390-949a-9101b17104e9', 'Linux /usr, ARM64', 'linux'),
  known('e6d6d379-f507-44c2-a23c-238f2a3df928', 'LVM', 'layered'),
  known('a19d880f-05fc-4d3b-a006-743f0f84911e', 'Linux RAID', 'layered'),
  known('ca7d7ccb-63ed-4c53-861c-1742536059cc', 'LUKS', 'layered'),
  known('44479540-f297-41b2-9af7-d131d5f0458a', 'Linux root, x86', 'linux'),
  known('4f68bce3-e8cd-4db1-96e7-fbcaf984b709', 'Linux root, x86-64', 'linux'),
  known('69dad710-2ce4-4e3c-b16c-21a1d49abed3', 'Linux root, ARM', 'linux'),
  known('b921b045-1df0-41c3-af44-4c6f280d3fae', 'Linux root, ARM64', 'linux'),
  known('72ec70a6-cf74-40e6-bd49-4bda08e8f224', 'Linux root, RISC-V 64', 'linux'),
  known('ebd0a0a2-b9e5-4433-87c0-68b6b72699c7', 'basic data', 'basic data'),
  known('e3c9e316-0b5c-4db8-817d-f92df00215ae', 'reserved'),
  known('de94bba4-06d1-4d40-a16a-bfd50179d6ac', 'recovery'),
  known('83bd6b9d-7f41-11dc-be0b-001560b84f0f', 'FreeBSD boot'),
  known('516e7cb5-6ecf-11d6-8ff8-00022d09712b', 'FreeBSD swap'),
  known('516e7cb6-6ecf-11d6-8ff8-00022d09712b', 'FreeBSD UFS'),
  known('516e7cba-6ecf-11d6-8ff8-00022d09712b', 'FreeBSD ZFS'),
  known('5b193300-fc78-40cd-8002-e86c45580b47', 'first-stage loader, FU740'),
  known('2e54b353-1271-4842-806f-e436d6af6985', 'loader of RISC-V boards'),
];

const BY_TYPE: ReadonlyMap<string, Known> = new Map(KNOWN.map((one) => [one.type, one]));

/** Types with a name that the table kind can hold, for choosing. */
export function knownTypes(table: 'mbr' | 'gpt'): readonly { readonly type: string; readonly name: string }[] {
  return KNOWN.filter((one) => isGuid(one.type) === (table === 'gpt') && one.promise !== 'protective');
}

/** What people call types otherwise, in small letters, by the name that they have here. */
const OTHER_NAMES: Readonly<Record<string, readonly string[]>> = {
  ESP: ['efi', 'efi system', 'efi system partition', 'uefi'],
  'BIOS boot': ['bios boot partition'],
  'extended boot loader': ['xbootldr', 'extended boot'],
  'boot loader partition': ['xbootldr', 'extended boot loader', 'extended boot'],
  Linux: ['ext2', 'ext3', 'ext4', 'xfs', 'linux data'],
  'Linux data': ['linux', 'ext2', 'ext3', 'ext4', 'xfs'],
  'Linux swap': ['swap'],
  'Linux home': ['home'],
  LVM: ['linux lvm'],
  'Linux RAID': ['raid'],
  LUKS: ['linux luks', 'dm-crypt'],
  FreeBSD: ['ufs', 'freebsd ufs'],
  'FreeBSD UFS': ['ufs'],
  'FreeBSD ZFS': ['zfs'],
  'FAT32 LBA': ['fat32', 'fat'],
  'NTFS or exFAT': ['ntfs', 'exfat'],
  'basic data': ['fat', 'fat12', 'fat16', 'fat32', 'exfat', 'ntfs'],
};

/** A code as people type it. */
const TYPED_CODE = /^(?:0x)?([0-9a-f]{2})h?$/i;

/**
 * The type that a text means in a table of this kind: a name, a code of two hexadecimal digits, or a GUID in
 * any case. One of the other table means its twin. Undefined where it is none.
 */
export function typeMeant(text: string, table: 'mbr' | 'gpt'): string | undefined {
  const said = text.trim().toLowerCase();
  const types = knownTypes(table);
  const named = types.find(({ name }) => name.toLowerCase() === said);
  if (named) return named.type;
  const code = TYPED_CODE.exec(said)?.[1]?.toUpperCase();
  const guid = /^\{?([^{}]+)\}?$/.exec(said)?.[1] ?? said;
  const type = code ?? (isGuid(guid) ? guid : undefined);
  if (type === undefined) return types.find(({ name }) => OTHER_NAMES[name]?.includes(said))?.type;
  if (type === '00') return undefined;
  return fitsTable(type, table) ? type : twinType(type, table);
}

/** The name of a type by itself, where it has one: what it is chosen and shown by. */
export function nameOfType(type: string): string | undefined {
  return BY_TYPE.get(type)?.name;
}

/** True where a type can stand in a table of this kind. */
export function fitsTable(type: string, table: 'mbr' | 'gpt' | 'none'): boolean {
  return table === 'none' || isGuid(type) === (table === 'gpt');
}

/** `0C FAT32 LBA`, `ESP`; of an unknown GUID its first part. */
export function typeName(type: string): string {
  const name = BY_TYPE.get(type)?.name;
  if (isGuid(type)) return name ?? `type ${type}`;
  return `${type} ${name ?? 'unknown type'}`;
}

/** A type code as two hexadecimal digits in upper case. */
export function typeCode(code: number): string {
  return code.toString(16).toUpperCase().padStart(2, '0');
}

/** What a type promises about the content. */
export function promiseOf(type: string): TypePromise {
  return BY_TYPE.get(type)?.promise ?? 'other';
}

/** Codes whose readers use cylinder addresses, with no reach beyond cylinder 1023, and have an LBA twin. */
export function isCylinderCode(type: string): boolean {
  return ['04', '06', '0B', '14', '16', '1B', '05'].includes(type);
}

/** What decides the type of a partition. `end` is the sector behind its last one. */
export interface TypeQuestion {
  readonly table: 'mbr' | 'gpt';
  readonly role: 'boot' | 'esp' | 'bios-boot' | 'system' | 'data' | 'swap';
  /** `ifs` is NTFS, and exFAT, which has the same types; `linux` stands for every other file system that is known. */
  readonly content: 12 | 16 | 32 | 'ifs' | 'swap' | 'linux' | 'ufs' | 'lvm' | 'luks' | 'raid' | 'none';
  readonly end: number;
  readonly sectors: number;
  readonly sectorSize: number;
  /** Boards and cards expect the LBA code of FAT32 whatever the size. */
  readonly prefersLba: boolean;
}

/** Types of what a system makes for itself. */
const OTHERS: Readonly<Partial<Record<TypeQuestion['content'], { readonly mbr: string; readonly gpt: string }>>> = {
  ufs: { mbr: 'A5', gpt: '516e7cb6-6ecf-11d6-8ff8-00022d09712b' },
  lvm: { mbr: '8E', gpt: 'e6d6d379-f507-44c2-a23c-238f2a3df928' },
  luks: { mbr: 'E8', gpt: 'ca7d7ccb-63ed-4c53-861c-1742536059cc' },
  raid: { mbr: 'FD', gpt: 'a19d880f-05fc-4d3b-a006-743f0f84911e' },
};

/** The GPT types that the rule gives. */
const GPT = {
  esp: 'c12a7328-f81f-11d2-ba4b-00a0c93ec93b',
  biosBoot: '21686148-6449-6e6f-744e-656564454649',
  extendedBoot: 'bc13c2ff-59e6-4262-a352-b275fd6f7172',
  linux: '0fc63daf-8483-4772-8e79-3d69d8477de4',
  swap: '0657fd6d-a4ab-43c4-84e5-0933c84b4f4f',
  lvm: 'e6d6d379-f507-44c2-a23c-238f2a3df928',
  raid: 'a19d880f-05fc-4d3b-a006-743f0f84911e',
  basicData: 'ebd0a0a2-b9e5-4433-87c0-68b6b72699c7',
  recovery: 'de94bba4-06d1-4d40-a16a-bfd50179d6ac',
} as const;

/** True for the type of an ESP, in either table. */
export const isEspType = (type: string): boolean => type === 'EF' || type === GPT.esp;
/** True for the type of an extended boot loader partition, in either table. */
export const isExtendedBootType = (type: string): boolean => type === 'EA' || type === GPT.extendedBoot;

/** Types of the two tables that mean the same; the first of a pair is the one to translate to. */
const TWINS: readonly (readonly [mbr: string, gpt: string])[] = [
  ['EF', GPT.esp],
  ['EA', GPT.extendedBoot],
  ['83', GPT.linux],
  ['82', GPT.swap],
  ['8E', GPT.lvm],
  ['FD', GPT.raid],
  ['07', GPT.basicData],
  ['27', GPT.recovery],
];

/**
 * The type of the other table that means the same; undefined where there is none. FAT codes mean basic
 * data; what basic data that holds a FAT is called on an MBR depends on its variant and place.
 */
export function twinType(type: string, table: 'mbr' | 'gpt', holdsFat = false): string | undefined {
  if (table === 'gpt') {
    if (promiseOf(type).startsWith('fat')) return GPT.basicData;
    return TWINS.find(([mbr]) => mbr === type)?.[1];
  }
  if (holdsFat && promiseOf(type) === 'basic data') return undefined;
  const twin = TWINS.find(([, gpt]) => gpt === type)?.[0];
  return twin ?? (promiseOf(type) === 'linux' ? '83' : undefined);
}

function gptTypeByRule({ role, content }: TypeQuestion): string {
  if (role === 'esp') return GPT.esp;
  if (role === 'bios-boot') return GPT.biosBoot;
  if (content === 'swap' || (role === 'swap' && content === 'none')) return GPT.swap;
  const other = OTHERS[content];
  if (other) return other.gpt;
  if (role === 'boot' && typeof content === 'number') return GPT.extendedBoot;
  return content === 'none' || content === 'linux' ? GPT.linux : GPT.basicData;
}

const SMALL = 32 * MIB;

/** The type by rule, where no person chose one. FAT12 has no LBA twin: its codes stay everywhere. */
export function typeByRule(question: TypeQuestion): string {
  const { table, role, content, end, sectors, sectorSize, prefersLba } = question;
  if (table === 'gpt') return gptTypeByRule(question);
  if (role === 'esp') return 'EF';
  const isSmall = sectors * sectorSize < SMALL;
  const beyond = sectorSize !== 512 || end > CHS_REACH;
  if (content === 12) return isSmall ? '01' : '06';
  if (content === 16) return beyond ? '0E' : isSmall ? '04' : '06';
  if (content === 32) return prefersLba || beyond ? '0C' : '0B';
  if (role === 'bios-boot') return 'DA';
  if (content === 'ifs') return '07';
  const other = OTHERS[content];
  if (other) return other.mbr;
  return content === 'swap' || (role === 'swap' && content === 'none') ? '82' : '83';
}
