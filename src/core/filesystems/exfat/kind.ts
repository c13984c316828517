/** exFAT as a kind of content. */
import { hashText } from '../../bytes/guid';
import { exactBytes } from '../../quantity/size-language';
import { accountOfOne } from '../account';
import type { Kind, MadeOf } from '../kind';
import { volumeIdNumber, volumeIdText } from '../volume-id';
import { exfatAccount } from './account';
import { exfatRoom, exfatTroubles } from './fill';
import { formatExfat } from './format';
import { exfatClusterSizes, exfatGeometry, type ExfatGeometry, type ExfatRefusal } from './geometry';
import { EXFAT_NAMES } from './names';
import type { ExfatContent } from './shape';

export type ExfatMade = MadeOf<'exfat', ExfatGeometry, ExfatRefusal>;

export const EXFAT: Kind<ExfatContent, ExfatMade> = {
  kind: 'exfat',
  word: 'exFAT',
  names: EXFAT_NAMES,
  clusters: { sizes: exfatClusterSizes(512), text: 'a power of two from 512 B to 32 MiB' },
  identity: {
    of: ({ volumeId }) => volumeId,
    with: (content, volumeId) => ({ ...content, volumeId }),
    from: (text) => volumeIdText(hashText(text) || 1),
    suffix: '',
  },
  fresh: (volumeId) => ({ kind: 'exfat', volumeId }),
  summary: ({ label }) => ({ word: 'exFAT', detail: label || undefined }),
  geometry({ cluster }, { start, sectors, sectorSize, unit }) {
    const question = { sectorSize, start, sectors, unit };
    const asked = cluster === undefined ? question : { ...question, cluster: exactBytes(cluster, sectorSize) };
    return { kind: 'exfat', geometry: exfatGeometry(asked) };
  },
  dataStart: ({ geometry }) => (geometry.ok ? geometry.value.heapOffset : undefined),
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
  typed: () => 'ifs',
};
