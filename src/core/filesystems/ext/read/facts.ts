/** What a superblock says of its file system, in words, for people who look at it. */
import { visible } from '../../../bytes/record';
import { textOfBytes } from '../../../bytes/utf8';
import { counted, grouped, inBoth } from '../../../quantity/units';
import type { VolumeFact } from '../../volume';
import { FEATURE_BITS, FEATURE_FIELDS, type FeatureName, hasFeature } from '../feature-bits';
import type { Superblock } from '../records';
import type { ExtHead } from './head';

/** What each feature means. */
const MEANINGS: Readonly<Record<FeatureName, string>> = {
  dir_prealloc: 'directories take blocks ahead',
  imagic_inodes: 'inodes of a network server',
  has_journal: 'a journal',
  ext_attr: 'attributes',
  resize_inode: 'room for further group descriptors',
  dir_index: 'hashed directories',
  sparse_super2: 'two copies of the superblock at most',
  fast_commit: 'short commits behind the journal',
  stable_inodes: 'inodes keep their numbers',
  orphan_file: 'a file of what is to be deleted',
  compression: 'compressed files',
  filetype: 'directories tell kinds',
  needs_recovery: 'the journal is to be replayed',
  journal_dev: 'a journal alone',
  meta_bg: 'descriptors lie with their groups',
  extents: 'files are mapped by extents',
  '64bit': 'more than 2³² blocks',
  mmp: 'signs against two mounts at once',
  flex_bg: 'structures of groups lie together',
  ea_inode: 'large attributes in inodes',
  dirdata: 'data in directory entries',
  csum_seed: 'checksums that do not depend on the UUID',
  largedir: 'directories of three levels',
  inline_data: 'small files in their inodes',
  encrypt: 'encrypted files',
  casefold: 'names that are the same whatever their case',
  sparse_super: 'few copies of the superblock',
  large_file: 'files over 2 GiB',
  huge_file: 'lengths counted in blocks',
  gdt_csum: 'checksums of group descriptors',
  dir_nlink: 'more than 65,000 folders in one',
  extra_isize: 'times of nanoseconds',
  quota: 'quotas',
  bigalloc: 'blocks counted in clusters',
  metadata_csum: 'checksums of every structure',
  readonly: 'never to be written to',
  project: 'quotas of projects',
  verity: 'files sealed by their sums',
  orphan_present: 'something is to be deleted',
};

/** Features that are set, in words; unknown ones by their bits. */
function featureWords(superblock: Superblock): string {
  const words: string[] = [];
  for (const where of FEATURE_FIELDS) {
    let rest = superblock[where];
    for (const [name, bit] of Object.entries<number>(FEATURE_BITS[where])) {
      if ((rest & bit) === 0) continue;
      words.push(`${MEANINGS[name as FeatureName]} (${name})`);
      rest &= ~bit;
    }
    if (rest !== 0) words.push(`unknown ones (${where}, ${(rest >>> 0).toString(16).toUpperCase()}h)`);
  }
  return words.length === 0 ? 'none' : words.join('; ');
}

/** `YYYY-MM-DD HH:MM:SS UTC` of seconds since 1970. */
function when(seconds: number): string {
  return seconds === 0 ? 'never' : `${new Date(seconds * 1000).toISOString().slice(0, 19).replace('T', ' ')} UTC`;
}

function uuidText(bytes: Uint8Array): string {
  const hex = [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('');
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
}

const text = (bytes: Uint8Array) => {
  const end = bytes.indexOf(0);
  return visible(textOfBytes(end < 0 ? bytes : bytes.subarray(0, end)));
};

const [CLEAN, HAD_ERRORS] = [1, 2];

/** How its system left it. */
function stateWords(superblock: Superblock): string {
  const { state } = superblock;
  const isClean = (state & CLEAN) !== 0 && !hasFeature(superblock, 'needs_recovery');
  return `${isClean ? 'let go of cleanly' : 'not let go of'}${(state & HAD_ERRORS) !== 0 ? ', with errors that were met' : ''}`;
}

/** What a volume says of itself, as a kernel would see it; its state is told `asItLies`. */
export function extFacts(
  { superblock, block, blocks, groups, inodeBytes }: ExtHead,
  asItLies: Superblock,
): readonly VolumeFact[] {
  const sb = superblock;
  const free = sb.freeBlocksLow + (blocks >= 2 ** 32 ? sb.freeBlocksHigh * 2 ** 32 : 0);
  const reserved = sb.reservedLow + (blocks >= 2 ** 32 ? sb.reservedHigh * 2 ** 32 : 0);
  const place = text(sb.lastMountedAt);
  return [
    { name: 'label', value: text(sb.label) || '–' },
    { name: 'UUID', value: uuidText(sb.uuid) },
    { name: 'state', value: stateWords(asItLies) },
    {
      name: 'in use',
      value: `${grouped(Math.max(0, blocks - free))} of ${grouped(blocks)} blocks of ${grouped(block)} bytes: ${inBoth(Math.max(0, blocks - free) * block)}`,
    },
    { name: 'kept for the administrator', value: inBoth(reserved * block) },
    {
      name: 'inodes',
      value: `${grouped(Math.max(0, sb.inodes - sb.freeInodes))} of ${grouped(sb.inodes)} in use, ${grouped(inodeBytes)} bytes each`,
    },
    { name: 'groups', value: `${counted(groups, 'group')} of ${grouped(sb.blocksPerGroup)} blocks` },
    { name: 'mounted last', value: `${when(sb.mounted)}${place === '' || sb.mounted === 0 ? '' : ` at ${place}`}` },
    { name: 'written last', value: when(sb.written) },
    { name: 'checked last', value: when(sb.checked) },
    { name: 'made', value: when(sb.made) },
    { name: 'features', value: featureWords(sb) },
  ];
}
