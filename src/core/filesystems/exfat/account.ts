/** Where the bytes of an exFAT volume go. */
import { counted, grouped } from '../../quantity/units';
import { type Account, accountWith, filledParts } from '../account';
import type { VolumeRoom } from '../allocation';
import { exfatSystem } from './fill';
import type { ExfatGeometry } from './geometry';

/** The parts of a volume, in the order of their places. */
export function exfatAccount(geometry: ExfatGeometry, room: VolumeRoom | undefined): Account {
  const { sectorSize, fatOffset, fatSectors, heapOffset, clusterBytes, clusters, tail } = geometry;
  const system = exfatSystem(room?.tree ?? [], geometry);
  const ahead = system.bitmap + system.upcase + system.root;
  return accountWith(`exFAT, ${grouped(clusters)} clusters`, [
    { name: 'Two boot regions', bytes: fatOffset * sectorSize, use: 'structure' },
    { name: `FAT of ${counted(fatSectors, 'sector')}`, bytes: fatSectors * sectorSize, use: 'structure' },
    { name: 'Up to the unit of the medium', bytes: (heapOffset - fatOffset - fatSectors) * sectorSize, use: 'padding' },
    { name: 'Allocation bitmap', bytes: system.bitmap * clusterBytes, use: 'structure' },
    { name: 'Up-case table', bytes: system.upcase * clusterBytes, use: 'structure' },
    { name: 'Root directory', bytes: system.root * clusterBytes, use: 'structure' },
    ...filledParts(room, clusterBytes, clusters, ahead),
    { name: 'Behind the last cluster', bytes: tail * sectorSize, use: 'unused' },
  ]);
}
