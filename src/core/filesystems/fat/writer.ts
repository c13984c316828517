/** FAT12, FAT16 and FAT32 as they are written. */
import { FAT_NAMES } from '../names';
import { accountOfOne } from '../account';
import type { Writer } from '../kind';
import { volumeIdNumber } from '../volume-id';
import { fatAccount } from './account';
import { volumeCode } from './boot-code';
import { roomFor, shapeOfTree } from './fill';
import { formatFat } from './format';
import type { FatContent } from './shape';
import type { FatMade } from './kind';

export const FAT_WRITER: Writer<FatContent, FatMade> = {
  names: FAT_NAMES,
  room({ label = '' }, { geometry }, tree) {
    if (!geometry.ok) return undefined;
    const { clusterBytes } = geometry.value;
    const { troubles } = shapeOfTree(tree);
    return { kind: 'FAT', tree, clusterBytes, troubles, ...roomFor(tree, geometry.value, label) };
  },
  ranges({ label = '', volumeId, times }, { date }, made, { tree, facts }) {
    if (!made?.geometry.ok) return [];
    const geometry = made.geometry.value;
    const code = volumeCode(facts, geometry.variant);
    const identity = { date, keepsTimes: times !== undefined, label, volumeId: volumeIdNumber(volumeId), code };
    return formatFat(geometry, identity, tree);
  },
  account: ({ label = '' }, { sectors, sectorSize }, made, room) =>
    made?.geometry.ok
      ? fatAccount(made.geometry.value, room, label !== '')
      : accountOfOne('Left to its system', sectors * sectorSize),
};
