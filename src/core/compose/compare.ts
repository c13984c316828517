/** Comparing: what a survey found against what a placement meant, fact by fact. */
import { storedLabel } from '../filesystems/label';
import { isPartition, type PlacedPartition, type Placement } from '../placement/placement';
import type { FoundPartition, Survey } from '../survey/survey';
import { typeName } from '../tables/types';
import { grouped } from '../quantity/units';
import { volumeIdNumber } from './compose';

/** One fact that was compared. `slot` is missing for facts about the table. */
export interface Comparison {
  readonly slot?: string;
  readonly fact: string;
  readonly meant: string;
  readonly found: string;
  readonly agrees: boolean;
}

function fact(
  slot: string | undefined,
  name: string,
  meant: string | number,
  found: string | number | undefined,
): Comparison {
  const say = (value: string | number | undefined) =>
    value === undefined ? 'nothing' : typeof value === 'number' ? grouped(value) : value;
  return { ...(slot && { slot }), fact: name, meant: say(meant), found: say(found), agrees: meant === found };
}

function comparePartition(meant: PlacedPartition, found: FoundPartition | undefined): Comparison[] {
  const id = meant.slot.id;
  const entry = found?.entry;
  const facts = [
    fact(id, 'first sector', meant.start, entry?.first),
    fact(id, 'sectors', meant.sectors, entry?.count),
    fact(id, 'type', typeName(meant.partition.type), entry && typeName(entry.type)),
    fact(id, 'mark', meant.slot.active ? 'active' : 'not active', entry && (entry.active ? 'active' : 'not active')),
  ];
  const { fileSystem } = meant.slot;
  if (!fileSystem || !meant.fat?.ok) return facts;
  const geometry = meant.fat.value;
  const volume = found?.fat;
  const label = storedLabel(fileSystem.label ?? '').text;
  return [
    ...facts,
    fact(id, 'volume starts at', meant.start, volume?.header.hidden),
    fact(id, 'volume sectors', geometry.totalSectors, volume?.header.total32),
    fact(
      id,
      'bytes per cluster',
      geometry.clusterBytes,
      volume && volume.header.sectorsPerCluster * volume.header.bytesPerSector,
    ),
    fact(id, 'clusters', geometry.clusters, volume?.clusters),
    fact(id, 'data starts at', geometry.dataStart, volume?.dataStart),
    fact(id, 'volume id', volumeIdNumber(fileSystem.volumeId).toString(16), volume?.header.volumeId.toString(16)),
    fact(id, 'label in the header', label, volume?.labelInHeader),
    fact(id, 'label in the root directory', label, volume?.labelInRoot),
    fact(id, 'free clusters, told', geometry.clusters - 1, volume?.freeTold),
    fact(id, 'free clusters, counted', geometry.clusters - 1, volume?.freeCounted),
    fact(id, 'boot sector copy', 'equal', volume && (volume.backupAgrees ? 'equal' : 'different')),
    fact(id, 'second FAT', 'equal', volume && (volume.fatsAgree ? 'equal' : 'different')),
    fact(id, 'clean mark', 'set', volume && (volume.cleanlyUnmounted ? 'set' : 'missing')),
  ];
}

/** Compares everything that the placement says with what the survey found. */
export function compare(placement: Placement, survey: Survey): Comparison[] {
  const meant = placement.placed.filter(isPartition);
  const found = new Map(survey.partitions.map((one) => [one.entry.index + 1, one]));
  return [
    fact(undefined, 'table', 'MBR', survey.table ? 'MBR' : survey.trouble),
    fact(
      undefined,
      'signature',
      placement.layout.table.signature,
      survey.table?.signature.toString(16).padStart(8, '0'),
    ),
    fact(undefined, 'partitions', meant.length, survey.partitions.length),
    ...meant.flatMap((one) => comparePartition(one, found.get(one.partition.number))),
  ];
}
