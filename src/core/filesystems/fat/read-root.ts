/** Reading the root directory: its label, how many entries it has, and whether its chain is sound. */
import type { BlockSource } from '../../bytes/blocks';
import { decode } from '../../bytes/record';
import { labelText } from './label';
import { entryOf } from './read-fats';
import { ATTRIBUTE_LONG_NAME, ATTRIBUTE_VOLUME, DIRECTORY_ENTRY } from './records';
import { clusterSector, type FatShape } from './header';

/** A directory has at most this many entries. */
const MOST_ENTRIES = 65_536;
/** Most bytes of a root directory that are read. */
const MOST_READ = 512 * 1024;

/** What is wrong with the chain of clusters of the root directory. */
export type RootTrouble = 'leaves the volume' | 'loops' | 'runs into a free cluster';

export interface RootFound {
  /** The label entry as text; empty when there is none. */
  readonly label: string;
  /** Files and folders, without the label and the pieces of long names. */
  readonly entries: number;
  /** Byte offsets of the clusters or of the fixed area, from the start of the volume. */
  readonly places: readonly { readonly at: number; readonly length: number }[];
  readonly trouble: RootTrouble | undefined;
}

/** The next cluster behind `cluster`, as the first FAT says: only FAT32 has a root directory that is a chain. */
async function nextOf(source: BlockSource, base: number, shape: FatShape, cluster: number): Promise<number> {
  const at = base + shape.reserved * shape.sectorSize + cluster * 4;
  return entryOf(32, await source.read(at, 4), 0);
}

/** Clusters of a chain that begins at the root cluster, as far as it is sound. */
async function chainOf(source: BlockSource, base: number, shape: FatShape) {
  const clusterBytes = shape.sectorsPerCluster * shape.sectorSize;
  const seen = new Set<number>();
  let cluster = shape.rootCluster;
  let trouble: RootTrouble | undefined;
  while (seen.size * clusterBytes < MOST_READ) {
    if (cluster < 2 || cluster >= shape.clusters + 2) trouble = 'leaves the volume';
    else if (seen.has(cluster)) trouble = 'loops';
    else if (cluster * 4 + 4 > shape.fatSectors * shape.sectorSize) trouble = 'leaves the volume';
    if (trouble) break;
    seen.add(cluster);
    const next = await nextOf(source, base, shape, cluster);
    if (next >= 0x0ffffff8) break;
    if (next === 0) {
      trouble = 'runs into a free cluster';
      break;
    }
    cluster = next;
  }
  return { clusters: [...seen], trouble };
}

/** Looks through the entries of a piece of a directory; says whether its end was seen. */
function lookThrough(bytes: Uint8Array, found: { label: string; entries: number }): boolean {
  for (let at = 0; at + DIRECTORY_ENTRY.length <= bytes.length; at += DIRECTORY_ENTRY.length) {
    const entry = decode(DIRECTORY_ENTRY, bytes.subarray(at));
    if (entry.name[0] === 0) return true;
    const attributes = entry.attributes & 0x3f;
    if (entry.name[0] === 0xe5 || attributes === ATTRIBUTE_LONG_NAME) continue;
    if ((attributes & ATTRIBUTE_VOLUME) === 0) found.entries += 1;
    else if (found.label === '') found.label = labelText(entry.name);
  }
  return false;
}

/** Reads the root directory of a volume at `base`; nothing at or behind `end` is read. */
export async function readRoot(source: BlockSource, base: number, shape: FatShape, end: number): Promise<RootFound> {
  const { sectorSize, rootCluster } = shape;
  const clusterBytes = shape.sectorsPerCluster * sectorSize;
  const fatEnd = base + (shape.reserved + shape.fatSectors) * sectorSize;
  const isChain = rootCluster !== 0;
  const mostBytes = Math.min(MOST_READ, MOST_ENTRIES * DIRECTORY_ENTRY.length);
  if (fatEnd > end) return { label: '', entries: 0, places: [], trouble: 'leaves the volume' };
  const chain = isChain ? await chainOf(source, base, shape) : { clusters: [], trouble: undefined };
  const places = isChain
    ? chain.clusters.map((cluster) => ({ at: clusterSector(shape, cluster) * sectorSize, length: clusterBytes }))
    : [{ at: (shape.dataStart - shape.rootSectors) * sectorSize, length: shape.rootSectors * sectorSize }];
  const found = { label: '', entries: 0 };
  let trouble = chain.trouble;
  for (const { at, length } of places) {
    const readable = Math.min(length, mostBytes);
    if (base + at + readable > end) {
      trouble ??= 'leaves the volume';
      break;
    }
    if (lookThrough(await source.read(base + at, readable), found)) break;
  }
  return { ...found, places, trouble };
}
