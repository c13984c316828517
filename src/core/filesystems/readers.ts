/** Everything that is read back: the kinds of volume, and what is only recognised by its signature. */
import type { BlockSource } from '../bytes/blocks';
import { compareExfat, EXFAT_READER, type ExfatInside } from './exfat/reader';
import { EXFAT_SIGNATURE } from './exfat/signature';
import { compareExt } from './ext/compare';
import { ExtVolume, openExt } from './ext/read/browse';
import type { Replay } from './ext/replay/replay';
import { compareFat, FAT_READER, type FatInside } from './fat/reader';
import { compareImage } from './image/compare';
import type { Made } from './kinds';
import type { LostHead } from './lost-heads';
import type { Fact, FoundInside, Meant, ReadLimits, VolumeReader } from './reader';
import type { Content } from './shapes';
import { CONTAINERS, EXT, Head, type KnownContent, NTFS, OTHERS, type Recogniser } from './signatures';
import type { ImageFacts } from './supplied';
import { compareSwap } from './swap/compare';
import { SWAP_SIGNATURE } from './swap/signature';
import type { Volume } from './volume';

/** A volume that was read. */
export type VolumeInside = FatInside | ExfatInside;

/** What is inside a partition. */
export type Inside =
  | VolumeInside
  | { readonly kind: 'known'; readonly content: KnownContent }
  | { readonly kind: 'zeros'; readonly lost?: LostHead }
  | { readonly kind: 'unknown'; readonly lost?: LostHead }
  | { readonly kind: 'out of reach' };

const READERS: readonly VolumeReader<VolumeInside>[] = [
  FAT_READER as VolumeReader<VolumeInside>,
  EXFAT_READER as VolumeReader<VolumeInside>,
];

/** Names of what is only recognised in a survey, and whose files can be listed all the same. */
const LISTED = ['ext2', 'ext3', 'ext4'];

/** Kinds of volume whose files can be listed, in words. */
export const BROWSABLE: readonly string[] = [...READERS.map(({ word }) => word), 'ext'];

/** The reader of a volume; undefined for everything else that can be inside. */
function readerOf(inside: Inside): VolumeReader<VolumeInside> | undefined {
  return READERS.find(({ kind }) => kind === inside.kind);
}

/** True for ext2, ext3 and ext4. */
export function isExt({ name }: Pick<KnownContent, 'name'>): boolean {
  return LISTED.includes(name);
}

/** True where the files of what is inside can be listed and read. */
export function canBeListed(inside: Inside): boolean {
  return isVolume(inside) || (inside.kind === 'known' && isExt(inside.content));
}

/** True for a volume that was read as a whole. */
export function isVolume(inside: Inside): inside is VolumeInside {
  return readerOf(inside) !== undefined;
}

/** Name and label of a volume that was read. */
export function describeVolume(inside: VolumeInside): { readonly name: string; readonly label: string } {
  return readerOf(inside)!.describe(inside);
}

/** Facts of what is inside; undefined where nothing is recognised. */
export function factsInside(inside: Inside): ImageFacts | undefined {
  if (isVolume(inside)) return readerOf(inside)!.facts(inside);
  if (inside.kind !== 'known') return undefined;
  const { name, size, state: _, mounted: __, looked: ___, places: ____, ...rest } = inside.content;
  return { name, ...rest, ...(size !== undefined && { bytes: size }) };
}

/** Reads the volume that begins `base` bytes into the source and has `available` bytes of room; undefined where there is none. */
export async function readVolume(
  source: BlockSource,
  base: number,
  available: number,
  limits: ReadLimits,
): Promise<VolumeInside | undefined> {
  for (const reader of READERS) {
    const found = await reader.read(source, base, available, limits);
    if (found) return found;
  }
  return undefined;
}

/**
 * The volume that begins `base` bytes into the source; undefined where there is none that can be browsed. What `unfinished`
 * found of it before need not be found again.
 */
export async function openVolume(source: BlockSource, base: number, known?: Replay): Promise<Volume | undefined> {
  for (const reader of READERS) {
    const volume = await reader.open(source, base);
    if (volume) return volume;
  }
  return openExt(source, base, known);
}

/** What is to be worked off of a volume before its files are what a kernel would show; undefined where it is of no such kind. */
export async function unfinished(source: BlockSource, base: number): Promise<Replay | undefined> {
  const volume = await openVolume(source, base);
  return volume instanceof ExtVolume ? volume.replay : undefined;
}

const RECOGNISERS: readonly Recogniser[] = [...CONTAINERS, NTFS, EXFAT_SIGNATURE, EXT, SWAP_SIGNATURE, ...OTHERS];

/** What the signatures in the first and last bytes of a partition say; undefined where there is none that is known. */
export function recognise(head: Uint8Array, tail: Uint8Array): KnownContent | undefined {
  const reading = new Head(head);
  for (const recogniser of RECOGNISERS) {
    const found = recogniser(reading, tail);
    if (found) return found;
  }
  return undefined;
}

/** True for the first sector of a volume: FAT, exFAT or NTFS have their header there. */
export function isVolumeHead(sector: Uint8Array): boolean {
  return READERS.some((reader) => reader.isHead(sector)) || NTFS(new Head(sector), new Uint8Array(0)) !== undefined;
}

/** What begins in these bytes, in a word, whether or not it is a sound volume; undefined where nothing is known. */
export function headWord(head: Uint8Array): string | undefined {
  return FAT_READER.isHead(head) ? FAT_READER.word : recognise(head, new Uint8Array(0))?.name;
}

/** Facts of a content that are compared: what was meant against what is inside. */
export function compareContent(meant: Meant<Content, Made>, inside: Inside | undefined): readonly Fact[] {
  const known = inside?.kind === 'known' ? inside.content : undefined;
  const found: FoundInside = { known, image: inside && factsInside(inside) };
  const volume = <K extends VolumeInside['kind']>(kind: K) =>
    inside?.kind === kind ? (inside as Extract<VolumeInside, { kind: K }>) : undefined;
  switch (meant.content.kind) {
    case 'fat':
      return compareFat(meant as Parameters<typeof compareFat>[0], volume('fat'));
    case 'exfat':
      return compareExfat(meant as Parameters<typeof compareExfat>[0], volume('exfat'));
    case 'ext':
      return compareExt(meant as Parameters<typeof compareExt>[0], found);
    case 'swap':
      return compareSwap(meant as Parameters<typeof compareSwap>[0], found);
    case 'image':
      return compareImage(meant as Parameters<typeof compareImage>[0], found);
    default:
      return [];
  }
}
