/** exFAT as it is written. */
import { EXFAT_NAMES } from './names';
import { accountOfOne } from '../account';
import type { Writer } from '../kind';
import { volumeIdNumber } from '../volume-id';
import { exfatAccount } from './account';
import { exfatRoom, exfatTroubles } from './fill';
import { formatExfat } from './format';
import type { ExfatContent } from './shape';
import type { ExfatMade } from './kind';

export const EXFAT_WRITER: Writer<ExfatContent, ExfatMade> = {
  names: EXFAT_NAMES,
  room(_content, { geometry }, tree) {
    if (!geometry.ok) return undefined;
    const { clusterBytes } = geometry.value;
    const troubles = exfatTroubles(tree);
    return { kind: 'exFAT', tree, clusterBytes, rootShort: 0, troubles, ...exfatRoom(tree, geometry.value) };
  },
  ranges({ label = '', volumeId, times }, { date }, made, { tree }) {
    if (!made?.geometry.ok) return [];
    const identity = { date, keepsTimes: times !== undefined, label, serial: volumeIdNumber(volumeId) };
    return formatExfat(made.geometry.value, identity, tree);
  },
  account: (_content, { sectors, sectorSize }, made, room) =>
    made?.geometry.ok
      ? exfatAccount(made.geometry.value, room)
      : accountOfOne('Left to its system', sectors * sectorSize),
};
