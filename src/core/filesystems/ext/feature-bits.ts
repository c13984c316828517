/** The features that a superblock can have, by their names in the kernel's documentation ("Super Block"), each a bit of one of three fields. */
import type { Superblock } from './records';

/** Bits of each field: what whoever does not know it may ignore, must not read, may only read. */
export const FEATURE_BITS = {
  compatible: {
    dir_prealloc: 0x1,
    imagic_inodes: 0x2,
    has_journal: 0x4,
    ext_attr: 0x8,
    resize_inode: 0x10,
    dir_index: 0x20,
    sparse_super2: 0x200,
    fast_commit: 0x400,
    stable_inodes: 0x800,
    orphan_file: 0x1000,
  },
  incompatible: {
    compression: 0x1,
    filetype: 0x2,
    needs_recovery: 0x4,
    journal_dev: 0x8,
    meta_bg: 0x10,
    extents: 0x40,
    '64bit': 0x80,
    mmp: 0x100,
    flex_bg: 0x200,
    ea_inode: 0x400,
    dirdata: 0x1000,
    csum_seed: 0x2000,
    largedir: 0x4000,
    inline_data: 0x8000,
    encrypt: 0x10000,
    casefold: 0x20000,
  },
  readOnly: {
    sparse_super: 0x1,
    large_file: 0x2,
    huge_file: 0x8,
    gdt_csum: 0x10,
    dir_nlink: 0x20,
    extra_isize: 0x40,
    quota: 0x100,
    bigalloc: 0x200,
    metadata_csum: 0x400,
    readonly: 0x1000,
    project: 0x2000,
    verity: 0x8000,
    orphan_present: 0x10000,
  },
} as const;

export type FeatureField = keyof typeof FEATURE_BITS;
export type FeatureName = { [F in FeatureField]: keyof (typeof FEATURE_BITS)[F] }[FeatureField];

export const FEATURE_FIELDS: readonly FeatureField[] = ['compatible', 'incompatible', 'readOnly'];

/** The field of each feature, and its bit there. */
const PLACES = Object.fromEntries(
  FEATURE_FIELDS.flatMap((field) => Object.entries(FEATURE_BITS[field]).map(([name, bit]) => [name, { field, bit }])),
) as Readonly<Record<FeatureName, { readonly field: FeatureField; readonly bit: number }>>;

export const FEATURES = Object.keys(PLACES) as FeatureName[];

/** What says which features a volume has. */
export type FeatureFields = Pick<Superblock, FeatureField>;

/** True where the superblock says that the volume has a feature. */
export function hasFeature(superblock: FeatureFields, name: FeatureName): boolean {
  const { field, bit } = PLACES[name];
  return (superblock[field] & bit) !== 0;
}

/** The bits of those of these features that lie in a field. */
export function bitsOf(field: FeatureField, names: Iterable<FeatureName>): number {
  let bits = 0;
  for (const name of names) if (PLACES[name].field === field) bits |= PLACES[name].bit;
  return bits;
}
