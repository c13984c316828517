/** What the boot sector of a FAT volume says about where everything lies. */
import { decode } from '../../bytes/record';
import { BOOT_SECTOR } from './records';
import { leastClusters, type Variant, variantOf } from './variants';

/** Where the structures of a volume lie, as its header says. Sectors are those of the header. */
export interface FatShape {
  /** By the number of clusters. */
  readonly variant: Variant;
  /** Bits of a FAT entry: as the header has it, which in a contradictory volume is not the variant. */
  readonly width: Variant;
  readonly sectorSize: number;
  readonly sectorsPerCluster: number;
  readonly reserved: number;
  readonly fats: number;
  readonly fatSectors: number;
  readonly rootEntries: number;
  readonly rootSectors: number;
  /** First cluster of the root directory; 0 where it has a place of its own. */
  readonly rootCluster: number;
  readonly infoSector: number;
  readonly backupSector: number;
  readonly dataStart: number;
  readonly clusters: number;
  readonly totalSectors: number;
}

/** True where a reader that counts clusters and one that looks at the header see different variants. */
export function isOfTwoMinds({ width, variant }: Pick<FatShape, 'width' | 'variant'>): boolean {
  return (width === 32) !== (variant === 32);
}

/** Sector sizes that the specification allows. */
const SECTOR_SIZES = [512, 1024, 2048, 4096];

function isPowerOfTwo(n: number): boolean {
  return n > 0 && (n & (n - 1)) === 0;
}

/** The shape that a boot sector describes; undefined when it cannot be that of a FAT volume. */
export function shapeOf(sector: Uint8Array): FatShape | undefined {
  if (sector.length < 512) return undefined;
  const large = decode(BOOT_SECTOR, sector);
  const jumps = large.jump[0] === 0xe9 || (large.jump[0] === 0xeb && large.jump[2] === 0x90);
  const sound =
    jumps &&
    large.mark === 0xaa55 &&
    SECTOR_SIZES.includes(large.bytesPerSector) &&
    isPowerOfTwo(large.sectorsPerCluster) &&
    large.reserved > 0 &&
    (large.fats === 1 || large.fats === 2) &&
    (large.media === 0xf0 || large.media >= 0xf8);
  if (!sound) return undefined;
  const fatSectors = large.fatSize16 || large.fatSize32;
  const totalSectors = large.total16 || large.total32;
  const rootSectors = Math.ceil((large.rootEntries * 32) / large.bytesPerSector);
  const dataStart = large.reserved + large.fats * fatSectors + rootSectors;
  const clusters = Math.floor((totalSectors - dataStart) / large.sectorsPerCluster);
  const variant = variantOf(clusters);
  if (variant === undefined || fatSectors === 0) return undefined;
  const isLarge = large.fatSize16 === 0;
  return {
    variant,
    width: isLarge ? 32 : clusters < leastClusters(16) ? 12 : 16,
    sectorSize: large.bytesPerSector,
    sectorsPerCluster: large.sectorsPerCluster,
    reserved: large.reserved,
    fats: large.fats,
    fatSectors,
    rootEntries: large.rootEntries,
    rootSectors,
    rootCluster: isLarge && large.rootEntries === 0 ? large.rootCluster : 0,
    infoSector: isLarge ? large.infoSector : 0,
    backupSector: isLarge ? large.backupSector : 0,
    dataStart,
    clusters,
    totalSectors,
  };
}

/** First sector, from the start of the volume, of a cluster. */
export function clusterSector(shape: FatShape, cluster: number): number {
  return shape.dataStart + (cluster - 2) * shape.sectorsPerCluster;
}
