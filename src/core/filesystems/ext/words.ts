/** Words of the document for ext file systems, which the interface uses too. */

export const EXT_VERSIONS = ['ext4', 'ext3', 'ext2'] as const;
export const PROFILES = ['current', 'old loaders', 'tiny'] as const;
export type Profile = (typeof PROFILES)[number];
