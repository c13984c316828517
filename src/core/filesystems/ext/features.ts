/** Features of ext file systems, and the profiles that people choose from. */
import { bitsOf, type FeatureFields, type FeatureName } from './feature-bits';
import type { Profile } from './words';
import type { ExtContent } from './shape';

/** Those that a file system made here can have. */
export type Feature = Extract<
  FeatureName,
  | 'has_journal'
  | 'ext_attr'
  | 'resize_inode'
  | 'dir_index'
  | 'filetype'
  | 'extents'
  | '64bit'
  | 'flex_bg'
  | 'sparse_super'
  | 'large_file'
  | 'huge_file'
  | 'gdt_csum'
  | 'dir_nlink'
  | 'extra_isize'
  | 'metadata_csum'
>;

/** Features of a file system that is made here; `has_journal` and `resize_inode` follow from sizes too. */
export type Features = ReadonlySet<Feature>;

const EXT2: readonly Feature[] = ['ext_attr', 'filetype', 'sparse_super', 'large_file'];
const INDEXED: readonly Feature[] = [...EXT2, 'resize_inode', 'dir_index'];
const EXT3: readonly Feature[] = [...INDEXED, 'has_journal'];
const EXT4: readonly Feature[] = [...EXT3, 'extents', 'flex_bg', 'huge_file', 'dir_nlink', 'extra_isize'];

/** What reads a file system of each profile, in a sentence. */
export const READ_BY: Readonly<Record<Profile, string>> = {
  current: 'Read by Linux from 3.18 on and by loaders of the last years; every structure has a checksum.',
  'old loaders':
    'Also read by loaders and kernels of ten years ago: no block numbers of 64 bits, no checksums but those of groups.',
  tiny: 'Read by everything that reads ext at all: no journal, nothing that costs room. For a few MiB.',
};

/** The profile where nobody asks for one: what the version can be at most. */
export function profileOf({ version, profile }: Pick<ExtContent, 'version' | 'profile'>): Profile {
  return profile ?? (version === 'ext4' ? 'current' : 'old loaders');
}

/** What systems take it for: an ext3 without a journal is an ext2. */
export function versionMade(version: ExtContent['version'], hasJournal: boolean): ExtContent['version'] {
  return version === 'ext3' && !hasJournal ? 'ext2' : version;
}

/** Profiles that a version can have: `current` is one of ext4, `tiny` one of ext2. */
export function profilesOf(version: ExtContent['version']): readonly Profile[] {
  if (version === 'ext4') return ['current', 'old loaders'];
  return version === 'ext3' ? ['old loaders'] : ['old loaders', 'tiny'];
}

/** Features of a version and profile, before it is known whether a journal or room to grow is made. */
export function featuresOf(content: Pick<ExtContent, 'version' | 'profile'>): Features {
  const profile = profileOf(content);
  if (profile === 'tiny') return new Set(EXT2);
  if (content.version === 'ext2') return new Set(INDEXED);
  if (content.version === 'ext3') return new Set(EXT3);
  return new Set<Feature>(profile === 'current' ? [...EXT4, '64bit', 'metadata_csum'] : [...EXT4, 'gdt_csum']);
}

/** The three fields of the superblock. */
export function featureBits(features: Features): FeatureFields {
  return {
    compatible: bitsOf('compatible', features),
    incompatible: bitsOf('incompatible', features),
    readOnly: bitsOf('readOnly', features),
  };
}
