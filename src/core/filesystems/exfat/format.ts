/** Makes an exFAT volume, empty or filled: every byte range that the format defines, zeros included. */
import { type ExfatGeometry, REGION } from './geometry';
import { encode } from '../../bytes/record';
import { shifted } from '../../bytes/extents';
import type { Tree } from '../tree';
import { type ExfatIdentity, type ExfatRange, fillExfat } from './fill';
import { EXFAT_BOOT_SECTOR, EXTENDED_MARK, EXTENDED_SECTORS, sumRegion } from './records';

/** A halt in every byte: what the specification wants where there is no boot code (3.1.19). */
const HALT = 0xf4;

function bootSector(geometry: ExfatGeometry, identity: ExfatIdentity, used: number, rootCluster: number): Uint8Array {
  const bytes = new Uint8Array(geometry.sectorSize);
  bytes.set(
    encode(EXFAT_BOOT_SECTOR, {
      jump: Uint8Array.of(0xeb, 0x76, 0x90),
      name: 'EXFAT   ',
      mustBeZero: new Uint8Array(53),
      partitionOffset: BigInt(geometry.start),
      volumeLength: BigInt(geometry.sectors),
      fatOffset: geometry.fatOffset,
      fatLength: geometry.fatSectors,
      heapOffset: geometry.heapOffset,
      clusterCount: geometry.clusters,
      rootCluster,
      serial: identity.serial,
      revision: 0x0100,
      flags: 0,
      sectorShift: Math.log2(geometry.sectorSize),
      clusterShift: Math.log2(geometry.sectorsPerCluster),
      fats: 1,
      drive: 0x80,
      percentInUse: Math.floor((used * 100) / geometry.clusters),
      code: new Uint8Array(390).fill(HALT),
      mark: 0xaa55,
    }),
  );
  return bytes;
}

/** The twelve sectors of a boot region: the last repeats the checksum of all before it. */
function bootRegion(boot: Uint8Array): Uint8Array {
  const size = boot.length;
  const region = new Uint8Array(REGION * size);
  const view = new DataView(region.buffer);
  region.set(boot);
  for (let i = 1; i <= EXTENDED_SECTORS; i++) view.setUint32((i + 1) * size - 4, EXTENDED_MARK, true);
  sumRegion(region, size);
  return region;
}

/**
 * All ranges that an exFAT volume defines, ascending, in bytes from the start of the medium. The
 * space between FAT and heap, and behind the last cluster, is not defined by the format.
 */
export function formatExfat(geometry: ExfatGeometry, identity: ExfatIdentity, tree: Tree = []): ExfatRange[] {
  const { sectorSize: size, fatOffset, fatSectors, start } = geometry;
  const filled = fillExfat(geometry, tree, identity);
  const region = bootRegion(bootSector(geometry, identity, filled.used, filled.rootCluster));
  const fatAt = fatOffset * size;
  const parts: ExfatRange[] = [
    { what: 'boot region', extent: { offset: 0, bytes: region } },
    { what: 'boot region copy', extent: { offset: region.length, bytes: region } },
    { what: 'FAT', extent: { offset: fatAt, bytes: filled.fat } },
    {
      what: 'FAT, unused part',
      extent: { offset: fatAt + filled.fat.length, zeros: fatSectors * size - filled.fat.length },
    },
    ...filled.ranges,
  ];
  return parts
    .filter(({ extent }) => !('zeros' in extent) || extent.zeros > 0)
    .map((one) => ({ ...one, extent: shifted(one.extent, start * size) }));
}
