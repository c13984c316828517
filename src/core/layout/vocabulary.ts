/** Words and patterns of the document that the interface uses too. */

/** What a partition is for. */
export const ROLES = ['boot', 'esp', 'bios-boot', 'system', 'data', 'swap'] as const;
export type Role = (typeof ROLES)[number];

/** What may start from the medium. */
export const BOOTS = ['uefi', 'bios', 'board'] as const;
export type Boots = (typeof BOOTS)[number];

/** Kinds of table. */
export const TABLES = ['mbr', 'gpt', 'none'] as const;
export type TableKind = (typeof TABLES)[number];
export const TABLE_NAMES: Readonly<Record<TableKind, string>> = { mbr: 'MBR', gpt: 'GPT', none: 'no table' };

/** File systems that are made here; `fat` leaves the variant to the size. */
export const FILE_SYSTEMS = ['fat', 'fat12', 'fat16', 'fat32'] as const;
export type FileSystemKind = (typeof FILE_SYSTEMS)[number];

/** Longest names, in characters. */
export const SLOT_NAME_LIMIT = 72;
export const LAYOUT_NAME_LIMIT = 80;
/** Longest reason for an accepted risk, in characters. */
export const REASON_LIMIT = 300;

/** Two hexadecimal digits, 01 to FF: a type on MBR. */
export const TYPE_CODE = /^(0[1-9A-F]|[1-9A-F][0-9A-F])$/;
/** A FAT volume id, as in `3A1F-77C0`. */
export const VOLUME_ID = /^[0-9A-F]{4}-[0-9A-F]{4}$/;
/** An MBR disk signature. */
export const SIGNATURE = /^[0-9a-f]{8}$/;
/** A mount point. */
export const MOUNT_POINT = /^\/[^\s\p{Cc}]*$/u;
