/** Where the bytes of a FAT volume go. */
import { counted, grouped } from '../../quantity/units';
import { type Account, accountWith, filledParts, type Part } from '../account';
import { clustersFor, type VolumeRoom } from '../allocation';
import { shapeOfTree } from './fill';
import type { FatGeometry } from './geometry';

/** Clusters of the root directory of FAT32. */
function rootClusters(geometry: FatGeometry, room: VolumeRoom | undefined, hasLabel: boolean): number {
  if (geometry.variant !== 32) return 0;
  const entries = (room ? shapeOfTree(room.tree).entries[0]! : 0) + (hasLabel ? 1 : 0);
  return Math.max(1, clustersFor(entries * 32, geometry.clusterBytes));
}

/** The parts of a volume, in the order of their places. */
export function fatAccount(geometry: FatGeometry, room: VolumeRoom | undefined, hasLabel: boolean): Account {
  const { sectorSize, reserved, fatSectors, leastFatSectors, clusterBytes, tail, unused, variant, rootSectors } =
    geometry;
  const root = rootClusters(geometry, room, hasLabel);
  const parts: Part[] = [
    { name: `Reserved, ${counted(reserved, 'sector')}`, bytes: reserved * sectorSize, use: 'structure' },
    {
      name: `Two FATs of ${counted(leastFatSectors, 'sector')}`,
      bytes: 2 * leastFatSectors * sectorSize,
      use: 'structure',
    },
    { name: 'FATs, padded', bytes: 2 * (fatSectors - leastFatSectors) * sectorSize, use: 'padding' },
    variant === 32
      ? { name: `Root directory, ${counted(root, 'cluster')}`, bytes: root * clusterBytes, use: 'structure' }
      : {
          name: `Root directory, ${grouped(geometry.rootEntries)} entries`,
          bytes: rootSectors * sectorSize,
          use: 'structure',
        },
    ...filledParts(room, clusterBytes, geometry.clusters, root),
    { name: 'Behind the last cluster', bytes: tail * sectorSize, use: 'unused' },
    { name: 'Behind the volume, unused', bytes: unused * sectorSize, use: 'unused' },
  ];
  return accountWith(`FAT${variant}, ${grouped(geometry.clusters)} clusters`, parts);
}
