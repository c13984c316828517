/** What a superblock says of its file system, in words, for people who look at it. */
import { visible } from '../../../bytes/record';
import { textOfBytes } from '../../../bytes/utf8';
import { counted, grouped, inBoth } from '../../../quantity/units';
import type { VolumeFact } from '../../volume';
import type { Superblock } from '../records';
import type { ExtHead } from './head';

type Field = 'compatible' | 'incompatible' | 'readOnly';

/** Features by their field and bit, each with its name in the kernel's documentation and what it means. */
const FEATURES: readonly (readonly [of: Field, bit: number, name: string, means: string])[] = [
  ['compatible', 0x1, 'dir_prealloc', 'directories take blocks ahead'],
  ['compatible', 0x2, 'imagic_inodes', 'inodes of a network server'],
  ['compatible', 0x4, 'has_journal', 'a journal'],
  ['compatible', 0x8, 'ext_attr', 'attributes'],
  ['compatible', 0x10, 'resize_inode', 'room for further group descriptors'],
  ['compatible', 0x20, 'dir_index', 'hashed directories'],
  ['compatible', 0x200, 'sparse_super2', 'two copies of the superblock at most'],
  ['compatible', 0x400, 'fast_commit', 'short commits behind the journal'],
  ['compatible', 0x800, 'stable_inodes', 'inodes keep their numbers'],
  ['compatible', 0x1000, 'orphan_file', 'a file of what is to be deleted'],
  ['incompatible', 0x1, 'compression', 'compressed files'],
  ['incompatible', 0x2, 'filetype', 'directories tell kinds'],
  ['incompatible', 0x4, 'needs_recovery', 'the journal is to be replayed'],
  ['incompatible', 0x8, 'journal_dev', 'a journal alone'],
  ['incompatible', 0x10, 'meta_bg', 'descriptors lie with their groups'],
  ['incompatible', 0x40, 'extents', 'files are mapped by extents'],
  ['incompatible', 0x80, '64bit', 'more than 2³² blocks'],
  ['incompatible', 0x100, 'mmp', 'signs against two mounts at once'],
  ['incompatible', 0x200, 'flex_bg', 'structures of groups lie together'],
  ['incompatible', 0x400, 'ea_inode', 'large attributes in inodes'],
  ['incompatible', 0x1000, 'dirdata', 'data in directory entries'],
  ['incompatible', 0x2000, 'csum_seed', 'checksums that do not depend on the UUID'],
  ['incompatible', 0x4000, 'largedir', 'directories of three levels'],
  ['incompatible', 0x8000, 'inline_data', 'small files in their inodes'],
  ['incompatible', 0x10000, 'encrypt', 'encrypted files'],
  ['incompatible', 0x20000, 'casefold', 'names that are the same whatever their case'],
  ['readOnly', 0x1, 'sparse_super', 'few copies of the superblock'],
  ['readOnly', 0x2, 'large_file', 'files over 2 GiB'],
  ['readOnly', 0x8, 'huge_file', 'lengths counted in blocks'],
  ['readOnly', 0x10, 'gdt_csum', 'checksums of group descriptors'],
  ['readOnly', 0x20, 'dir_nlink', 'more than 65,000 folders in one'],
  ['readOnly', 0x40, 'extra_isize', 'times of nanoseconds'],
  ['readOnly', 0x100, 'quota', 'quotas'],
  ['readOnly', 0x200, 'bigalloc', 'blocks counted in clusters'],
  ['readOnly', 0x400, 'metadata_csum', 'checksums of every structure'],
  ['readOnly', 0x1000, 'readonly', 'never to be written to'],
  ['readOnly', 0x2000, 'project', 'quotas of projects'],
  ['readOnly', 0x8000, 'verity', 'files sealed by their sums'],
  ['readOnly', 0x10000, 'orphan_present', 'something is to be deleted'],
];

/** Features that are set, in words; unknown ones by their bits. */
function featureWords(superblock: Superblock): string {
  const words: string[] = [];
  for (const where of ['compatible', 'incompatible', 'readOnly'] as const) {
    let rest = superblock[where];
    for (const [field, bit, name, means] of FEATURES) {
      if (field !== where || (rest & bit) === 0) continue;
      words.push(`${means} (${name})`);
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

const [CLEAN, HAD_ERRORS, TO_REPLAY] = [1, 2, 4];

/** How its system left it. */
function stateWords({ state, incompatible }: Superblock): string {
  const isClean = (state & CLEAN) !== 0 && (incompatible & TO_REPLAY) === 0;
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
