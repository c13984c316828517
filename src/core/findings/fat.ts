/** Findings about FAT32 volumes. */
import { BORDER, type Fat32Refusal, LEAST_CLUSTERS } from '../filesystems/fat32/geometry';
import { LABEL_LENGTH, storedLabel } from '../filesystems/label';
import type { PlacedPartition, Placement } from '../placement/placement';
import { alignUp } from '../quantity/integers';
import { exactText, grouped, inBinary, inBoth, sectorCount } from '../quantity/units';
import { atSlot, changing, fatPartitions, type Finding, type Remedy, type Rule } from './finding';

const VARIANT_WHY =
  'The number of clusters alone decides the FAT variant: with fewer than 65,525, readers take the volume for FAT16.';

function largerOrFreeCluster(placement: Placement, { slot, rule }: PlacedPartition, refusal: Fat32Refusal): Remedy[] {
  const remedies: Remedy[] = [];
  if (refusal.least !== undefined && rule) {
    const bytes = alignUp(refusal.least, placement.grain.sectors) * placement.sectorSize;
    const least = exactText(bytes, placement.sectorSize);
    const size = rule.kind === 'rest' ? `rest, at least ${least}` : least;
    if (slot.fileSystem?.cluster === undefined || bytes < 2 ** 31)
      remedies.push(
        changing(`Make ${slot.name} ${rule.kind === 'rest' ? 'at least ' : ''}${least}`, slot.id, { size }),
      );
  }
  if (slot.fileSystem?.cluster !== undefined)
    remedies.push(
      changing('Let the size decide the cluster', slot.id, { fileSystem: { ...slot.fileSystem, cluster: undefined } }),
    );
  return remedies;
}

function refusalText(name: string, refusal: Fat32Refusal, sectorSize: number): string {
  const cluster = inBinary(refusal.clusterBytes);
  switch (refusal.reason) {
    case 'too few clusters':
      return `${name} would have ${grouped(refusal.clusters)} clusters of ${cluster}; FAT32 begins at ${grouped(LEAST_CLUSTERS)}. It needs ${sectorCount(refusal.least ?? 0)} (${inBoth((refusal.least ?? 0) * sectorSize)}).`;
    case 'too many clusters':
      return `${name} would have ${grouped(refusal.clusters)} clusters of ${cluster}, more than FAT32 can number.`;
    case 'too many sectors':
      return `${name} has more sectors than FAT32 can count in 32 bits.`;
    case 'cluster size':
      return `Clusters of ${cluster} are smaller than a sector of ${inBinary(sectorSize)}.`;
  }
}

const noGeometry: Rule = (placement) =>
  fatPartitions(placement).flatMap((one): Finding[] => {
    if (!one.fat || one.fat.ok) return [];
    return [
      {
        rule: 'fat/no-fat32-of-this-size',
        severity: 'stop',
        place: atSlot(one.slot.id),
        sentence: refusalText(one.slot.name, one.fat.error, placement.sectorSize),
        why: VARIANT_WHY,
        remedies: largerOrFreeCluster(placement, one, one.fat.error),
      },
    ];
  });

const nearBorder: Rule = (placement) =>
  fatPartitions(placement).flatMap((one): Finding[] => {
    if (!one.fat?.ok || one.fat.value.clusters >= LEAST_CLUSTERS + BORDER) return [];
    return [
      {
        rule: 'fat/near-the-border',
        severity: 'risk',
        place: atSlot(one.slot.id),
        sentence: `${one.slot.name} has ${grouped(one.fat.value.clusters)} clusters, ${one.fat.value.clusters - LEAST_CLUSTERS} above the border to FAT16.`,
        why: 'Some readers draw the border up to 16 clusters away from where it is.',
        remedies: [
          changing('Let the size decide the cluster', one.slot.id, {
            fileSystem: { ...one.slot.fileSystem, cluster: undefined },
          }),
        ],
      },
    ];
  });

const largeClusters: Rule = (placement) =>
  fatPartitions(placement).flatMap((one): Finding[] => {
    if (!one.fat?.ok || one.fat.value.clusterBytes <= 32 * 1024) return [];
    const fileSystem = { ...one.slot.fileSystem, cluster: '32 KiB' };
    return [
      {
        rule: 'fat/clusters-of-64-kib',
        severity: 'risk',
        place: atSlot(one.slot.id),
        sentence: `${one.slot.name} has clusters of ${inBinary(one.fat.value.clusterBytes)}.`,
        why: 'Many readers refuse clusters of more than 32 KiB.',
        remedies: [changing('Use 32 KiB clusters', one.slot.id, { fileSystem })],
      },
    ];
  });

const dataOffUnit: Rule = (placement) =>
  fatPartitions(placement).flatMap((one): Finding[] => {
    if (!one.fat?.ok || one.fat.value.onWantedUnit) return [];
    return [
      {
        rule: 'fat/data-off-the-unit',
        severity: 'note',
        place: atSlot(one.slot.id),
        sentence: `The data area of ${one.slot.name} begins on a multiple of ${inBinary(one.fat.value.unit)}, not of ${inBinary(placement.dataUnit)}.`,
        why: 'Padding to the larger unit would have cost more than 1/16 of the volume, or the clusters that make it FAT32.',
        remedies: [],
      },
    ];
  });

const forbiddenLabel: Rule = (placement) =>
  fatPartitions(placement).flatMap((one): Finding[] => {
    const stored = storedLabel(one.slot.fileSystem.label ?? '');
    if (stored.forbidden.length === 0) return [];
    return [
      {
        rule: 'fat/label-forbidden-characters',
        severity: 'stop',
        place: atSlot(one.slot.id),
        sentence: `The label “${one.slot.fileSystem.label}” has ${stored.forbidden.map((c) => `“${c}”`).join(', ')}, which a FAT label cannot hold.`,
        why: 'Readers refuse or misread such a label.',
        remedies: [
          changing(`Write it as ${stored.text}`, one.slot.id, {
            fileSystem: { ...one.slot.fileSystem, label: stored.text },
          }),
        ],
      },
    ];
  });

const labelChanges: Rule = (placement) =>
  fatPartitions(placement).flatMap((one): Finding[] => {
    const { fileSystem } = one.slot;
    const label = fileSystem.label ?? '';
    const stored = storedLabel(label);
    if (stored.text === label || stored.forbidden.length > 0) return [];
    const cut = stored.cut ? `, without “${stored.cut}”` : '';
    return [
      {
        rule: 'fat/label-stored-as',
        severity: 'note',
        place: atSlot(one.slot.id),
        sentence: `The label “${label}” will be stored as ${stored.text}${cut}.`,
        why: `FAT labels have ${LABEL_LENGTH} characters, in upper case.`,
        remedies: [
          changing(`Write it as ${stored.text}`, one.slot.id, { fileSystem: { ...fileSystem, label: stored.text } }),
        ],
      },
    ];
  });

export const FAT_RULES: readonly Rule[] = [
  noGeometry,
  nearBorder,
  largeClusters,
  dataOffUnit,
  forbiddenLabel,
  labelChanges,
];
