/** Words and patterns of the document that the interface uses too. */

/** Newest version of the document, and the only one that is written; `upgrade.ts` reads the older ones. */
export const LAYOUT_VERSION = 2;

/** What a partition is for. */
export const ROLES = ['boot', 'esp', 'bios-boot', 'system', 'data', 'swap'] as const;
export type Role = (typeof ROLES)[number];
/** What a partition is called by its role, where nobody gave it a name. */
export const ROLE_NAMES: Readonly<Record<Role, string>> = {
  boot: 'Boot',
  esp: 'ESP',
  'bios-boot': 'BIOS boot',
  system: 'System',
  data: 'Data',
  swap: 'Swap',
};

/** What may start from the medium. */
export const BOOTS = ['uefi', 'bios', 'board'] as const;
export type Boots = (typeof BOOTS)[number];

/** What the machine is used for. */
export const USES = ['desktop', 'server', 'device', 'storage'] as const;
export type Use = (typeof USES)[number];

/** How a BIOS loader lies on the medium: what sector 0 goes on with. */
export const LOADERS = ['active partition', 'gap', 'bios boot partition'] as const;
export type Loader = (typeof LOADERS)[number];

/** Who brings the loader of a BIOS: an installer later, a file that is supplied here, or Loess with code of its own. */
export const LOADER_BRINGERS = ['installer', 'file', 'own code'] as const;
export type LoaderBringer = (typeof LOADER_BRINGERS)[number];

/** Where old BIOSes stop, by the name of the trade, in bytes (first byte out of reach). */
export const BIOS_LIMITS = {
  '504 MiB': 1024 * 16 * 63 * 512,
  '2.1 GB': 4096 * 16 * 63 * 512,
  '8.4 GB': 1024 * 255 * 63 * 512,
  '33.8 GB': 65_535 * 16 * 63 * 512,
  '137 GB': 2 ** 28 * 512,
} as const;
export type BiosLimit = keyof typeof BIOS_LIMITS;
export const BIOS_LIMIT_NAMES = Object.keys(BIOS_LIMITS) as [BiosLimit, ...BiosLimit[]];

/** The grain of machines that compute with cylinders, as the document says it. */
export const CYLINDERS = 'cylinders';

/** Types of an MBR container. */
export const CONTAINER_TYPES = ['05', '0F', '85'] as const;
export type ContainerType = (typeof CONTAINER_TYPES)[number];

/** Most partitions of a GPT that an MBR shows too. */
export const HYBRID_LIMIT = 3;

/** Kinds of table. */
export const TABLES = ['mbr', 'gpt', 'none'] as const;
export type TableKind = (typeof TABLES)[number];
export const TABLE_NAMES: Readonly<Record<TableKind, string>> = { mbr: 'MBR', gpt: 'GPT', none: 'no table' };

/** Most slots of a layout. */
export const SLOT_LIMIT = 256;
/** Longest names, in characters. */
export const SLOT_NAME_LIMIT = 72;
export const LAYOUT_NAME_LIMIT = 80;
/** Longest reason for an accepted risk, in characters. */
export const REASON_LIMIT = 300;

/** An MBR disk signature. */
export const SIGNATURE = /^[0-9a-f]{8}$/;
/** What a mount table can name a file system by. */
export const NAMED_BY = ['UUID', 'PARTUUID', 'LABEL', 'PARTLABEL', 'device name'] as const;
export type NamedBy = (typeof NAMED_BY)[number];
/** What Loess writes into the files of a slot, from the layout, each time it is built. */
export const WRITABLE = ['mount table', 'boot entries'] as const;
export type Writable = (typeof WRITABLE)[number];
/** What reads the mount table, where it is not the usual program of Linux systems. */
export const MOUNT_TOOLS = ['busybox'] as const;
/** What starts services, and mounts, on the machine. */
export const SERVICE_MANAGERS = ['systemd', 'other'] as const;
/** Longest options of a mount, in characters, and what they are made of. */
export const MOUNT_OPTIONS_LIMIT = 500;
export const MOUNT_OPTIONS = /^[!-~]+$/;

/** Most ways to start, the name of the file of one, and a path in a file system. */
export const ENTRY_LIMIT = 32;
export const ENTRY_ID = /^[A-Za-z0-9][A-Za-z0-9+_.-]{0,62}$/;
export const PATH_FROM_ROOT = /^\/[!-~]*$/;

/** A mount point. */
export const MOUNT_POINT = /^\/[^\s\u0000-\u001f\u007f-\u009f]*$/u;

/** Most copies of a series. */
export const COPY_LIMIT = 1_000_000;
