/** Reading exFAT volumes back. */
import type { Fact, Meant, VolumeReader } from '../reader';
import { volumeIdNumber, volumeIdText } from '../volume-id';
import type { ExfatMade } from './kind';
import { type ExfatFound, openExfat, readExfat } from './read';
import type { ExfatContent } from './shape';
import { EXFAT_NAME } from './signature';

export interface ExfatInside {
  readonly kind: 'exfat';
  readonly exfat: ExfatFound;
}

export const EXFAT_READER: VolumeReader<ExfatInside> = {
  kind: 'exfat',
  word: 'exFAT',
  isHead: (sector) => String.fromCharCode(...sector.subarray(3, 3 + EXFAT_NAME.length)) === EXFAT_NAME,
  async read(source, base, _available, { isFull }) {
    const exfat = await readExfat(source, base, isFull);
    return exfat && { kind: 'exfat', exfat };
  },
  open: openExfat,
  describe: ({ exfat }) => ({ name: 'exFAT', label: exfat.label }),
  facts({ exfat: { shape, label, serial, free } }) {
    return {
      name: 'exFAT',
      label,
      id: volumeIdText(serial),
      sectorSize: shape.sectorSize,
      bytes: shape.volumeSectors * shape.sectorSize,
      ...(free !== undefined && { used: (shape.clusters - free) * shape.clusterBytes }),
    };
  },
};

const sound = (is: boolean | undefined) => (is === undefined ? undefined : is ? 'right' : 'wrong');

/** Facts that are compared of a volume that was made. */
export function compareExfat(
  { content, site, made, room }: Meant<ExfatContent, ExfatMade>,
  found: ExfatInside | undefined,
): Fact[] {
  if (!made?.geometry.ok) return [];
  const geometry = made.geometry.value;
  const volume = found?.exfat;
  return [
    ['volume starts at', site.start, volume?.partitionOffset],
    ['volume sectors', geometry.sectors, volume?.shape.volumeSectors],
    ['bytes per cluster', geometry.clusterBytes, volume?.shape.clusterBytes],
    ['clusters', geometry.clusters, volume?.shape.clusters],
    ['data starts at', geometry.heapOffset, volume?.shape.heapOffset],
    ['volume id', volumeIdNumber(content.volumeId).toString(16), volume?.serial.toString(16)],
    ['label', content.label ?? '', volume?.label],
    ['checksum of the boot region', 'right', sound(volume?.regionSound)],
    ['checksum of its copy', 'right', sound(volume?.copySound)],
    ['free clusters, counted', room && room.clusters - room.used, volume?.free],
  ];
}
