/** exFAT as a kind of content. */
import { exactBytes } from '../../quantity/size-language';
import type { Kind, MadeOf } from '../kind';
import { identityOfVolume } from '../volume-id';
import { exfatClusterSizes, exfatGeometry, type ExfatGeometry, type ExfatRefusal } from './geometry';
import type { ExfatContent } from './shape';

export type ExfatMade = MadeOf<'exfat', ExfatGeometry, ExfatRefusal>;

export const EXFAT: Kind<ExfatContent, ExfatMade> = {
  kind: 'exfat',
  word: 'exFAT',
  takesFiles: true,
  clusters: { sizes: exfatClusterSizes(512), text: 'a power of two from 512 B to 32 MiB', field: 'cluster' },
  identity: identityOfVolume(),
  fresh: (volumeId) => ({ kind: 'exfat', volumeId }),
  summary: ({ label }) => ({ word: 'exFAT', detail: label || undefined }),
  geometry({ cluster }, { start, sectors, sectorSize, unit }) {
    const question = { sectorSize, start, sectors, unit };
    const asked = cluster === undefined ? question : { ...question, cluster: exactBytes(cluster, sectorSize) };
    return { kind: 'exfat', geometry: exfatGeometry(asked) };
  },
  dataStart: ({ geometry }) => (geometry.ok ? geometry.value.heapOffset : undefined),
  mounted: ({ volumeId, label }) => ({ type: 'exfat', id: volumeId, label: label || undefined, known: 'made' }),
  typed: () => 'ifs',
};
