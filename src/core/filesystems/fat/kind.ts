/** FAT12, FAT16 and FAT32 as a kind of content. */
import { exactBytes } from '../../quantity/size-language';
import type { Kind, MadeOf, Site } from '../kind';
import { identityOfVolume } from '../volume-id';
import { fatGeometry, type FatGeometry, type FatQuestion, type FatRefusal } from './geometry';
import { storedLabel } from './label';
import type { FatContent } from './shape';
import { clusterSizes } from './variants';

export type FatMade = MadeOf<'fat', FatGeometry, FatRefusal>;

/** What the document asks of a volume in this place. */
export function fatQuestion(content: Omit<FatContent, 'volumeId'>, site: Site): FatQuestion {
  const { variant, cluster, rootEntries, padding } = content;
  const { start, sectors, sectorSize, unit, wholeMedium, isEsp } = site;
  return {
    sectorSize,
    start,
    sectors,
    unit,
    prefersFat32: isEsp,
    wholeMedium,
    ...(variant !== undefined && { variant }),
    ...(cluster !== undefined && { cluster: exactBytes(cluster, sectorSize) }),
    ...(rootEntries !== undefined && { rootEntries }),
    ...(padding !== undefined && { padding }),
  };
}

/** The variant that is made, or was refused. */
function variantOf({ geometry }: FatMade) {
  return geometry.ok ? geometry.value.variant : geometry.error.variant;
}

export const FAT: Kind<FatContent, FatMade> = {
  kind: 'fat',
  word: 'FAT',
  takesFiles: true,
  clusters: { sizes: clusterSizes(512), text: 'a power of two from 512 B to 64 KiB', field: 'cluster' },
  identity: identityOfVolume(),
  fresh: (volumeId) => ({ kind: 'fat', volumeId }),
  summary: ({ label = '' }, made) => ({
    word: `FAT${made ? variantOf(made) : ''}`,
    detail: storedLabel(label).text || 'no label',
  }),
  geometry: (content, site) => ({ kind: 'fat', geometry: fatGeometry(fatQuestion(content, site)) }),
  dataStart: ({ geometry }) => (geometry.ok ? geometry.value.dataStart : undefined),
  mounted: ({ volumeId, label = '' }) => ({
    type: 'vfat',
    id: volumeId,
    label: storedLabel(label).text || undefined,
    known: 'made',
  }),
  typed: (_content, made) => (made ? variantOf(made) : 'none'),
};
