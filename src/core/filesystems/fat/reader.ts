/** Reading FAT volumes back. */
import type { Fact, Meant, VolumeReader } from '../reader';
import { volumeIdNumber, volumeIdText } from '../volume-id';
import { openFat } from './browse';
import { hiddenSectors } from './geometry';
import { isOfTwoMinds, shapeOf } from './header';
import type { FatMade } from './kind';
import { storedLabel } from './label';
import { type FatFound, readFat } from './read';
import type { FatContent } from './shape';

export interface FatInside {
  readonly kind: 'fat';
  readonly fat: FatFound;
}

export const FAT_READER: VolumeReader<FatInside> = {
  kind: 'fat',
  word: 'FAT',
  isHead: (sector) => shapeOf(sector) !== undefined,
  async read(source, base, available, { tableBytes }) {
    const fat = await readFat(source, base, available, { budget: tableBytes });
    return fat && { kind: 'fat', fat };
  },
  open: openFat,
  describe: ({ fat }) => ({ name: `FAT${fat.shape.variant}`, label: fat.root.label || fat.labelInHeader }),
  facts({ fat: { shape, hidden, volumeId, root, labelInHeader, freeCounted, fatsAgree } }) {
    const cluster = shape.sectorsPerCluster * shape.sectorSize;
    return {
      name: `FAT${shape.variant}`,
      variant: shape.variant,
      ...(isOfTwoMinds(shape) && { headerOf: shape.width }),
      label: root.label || labelInHeader,
      id: volumeIdText(volumeId),
      sectorSize: shape.sectorSize,
      bytes: shape.totalSectors * shape.sectorSize,
      hidden,
      fatsAgree,
      ...(shape.backupSector > 0 && shape.backupSector < shape.reserved && { backupSector: shape.backupSector }),
      ...(freeCounted !== undefined && { used: (shape.clusters - freeCounted) * cluster }),
    };
  },
};

const yes = (value: boolean | undefined, good: string, bad: string) =>
  value === undefined ? undefined : value ? good : bad;

/** Facts that are compared of a volume that was made. */
export function compareFat(
  { content, site, made, room }: Meant<FatContent, FatMade>,
  found: FatInside | undefined,
): Fact[] {
  if (!made?.geometry.ok) return [];
  const geometry = made.geometry.value;
  const volume = found?.fat;
  const shape = volume?.shape;
  const label = storedLabel(content.label ?? '').text;
  const free = room && room.clusters - room.used;
  return [
    ['variant', `FAT${geometry.variant}`, shape && `FAT${shape.variant}`],
    ['volume starts at', hiddenSectors(site.start), volume?.hidden],
    ['volume sectors', geometry.totalSectors, shape?.totalSectors],
    ['bytes per cluster', geometry.clusterBytes, shape && shape.sectorsPerCluster * shape.sectorSize],
    ['clusters', geometry.clusters, shape?.clusters],
    ['data starts at', geometry.dataStart, shape?.dataStart],
    ['root directory entries', geometry.variant === 32 ? 0 : geometry.rootEntries, shape?.rootEntries],
    ['media byte', geometry.headers.media, volume?.media],
    ['volume id', volumeIdNumber(content.volumeId).toString(16), volume?.volumeId.toString(16)],
    ['label in the header', label, volume?.labelInHeader],
    ['label in the root directory', label, volume?.root.label],
    ...(geometry.variant === 32
      ? ([
          ['free clusters, told', free, volume?.freeTold],
          ['boot sector copy', 'equal', yes(volume?.backupAgrees, 'equal', 'different')],
        ] as const)
      : []),
    ['free clusters, counted', free, volume?.freeCounted],
    ['second FAT', 'equal', yes(volume?.fatsAgree, 'equal', 'different')],
    ['clean mark', 'set', yes(volume?.cleanlyUnmounted, 'set', 'missing')],
  ];
}
