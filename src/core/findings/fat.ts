/** Findings about the geometry of FAT volumes. */
import { type FatRefusal, hiddenSectors } from '../filesystems/fat/geometry';
import { BORDER, borderDistance, leastClusters, mostClusters, type Variant } from '../filesystems/fat/variants';
import { isPlainFlash } from '../medium/medium';
import type { Placement } from '../placement/placement';
import { alignDown, alignUp } from '../quantity/integers';
import { exactText, grouped, inBinary, inBoth, sectorCount } from '../quantity/units';
import {
  atSlot,
  changing,
  fatPartitions,
  type Finding,
  hasRoomFor,
  once,
  refitting,
  type Remedy,
  type Rule,
} from './finding';

type WithFat = ReturnType<typeof fatPartitions>[number];

const COUNT_WHY =
  'The number of clusters alone decides the variant: with a count of another one, readers disagree about what they see.';

/** Choices of a person without which the size would decide. */
function freeChoices({ slot }: WithFat): Remedy[] {
  const { kind, cluster } = slot.fileSystem;
  return [
    ...(cluster !== undefined ? [refitting('Let the size decide the cluster', slot, { cluster: undefined })] : []),
    ...(kind !== 'fat' ? [refitting('Let the size decide the variant', slot, { kind: 'fat' })] : []),
  ];
}

function grow(placement: Placement, one: WithFat, least: number): Remedy[] {
  const { slot, rule } = one;
  const bytes = alignUp(least, placement.grain.sectors) * placement.sectorSize;
  if (!hasRoomFor(placement, one, bytes)) return [];
  const text = exactText(bytes, placement.sectorSize);
  if (rule?.kind === 'rest')
    return [changing(`Make ${slot.name} at least ${text}`, slot.id, { size: `rest, at least ${text}` })];
  return [changing(`Make ${slot.name} ${text}`, slot.id, { size: text })];
}

function shrink(placement: Placement, { slot }: WithFat, most: number): Remedy[] {
  const sectors = alignDown(most, placement.grain.sectors);
  if (sectors === 0) return [];
  const text = exactText(sectors * placement.sectorSize, placement.sectorSize);
  return [changing(`Make ${slot.name} ${text}`, slot.id, { size: text })];
}

/** Findings about volumes that cannot be made for one reason. */
function refused(
  placement: Placement,
  reason: FatRefusal['reason'],
  tell: (one: WithFat, refusal: FatRefusal) => Omit<Finding, 'severity' | 'place'>,
): Finding[] {
  return fatPartitions(placement).flatMap((one): Finding[] => {
    if (!one.fat || one.fat.ok || one.fat.error.reason !== reason) return [];
    return [{ severity: 'stop', place: atSlot(one.slot.id), ...tell(one, one.fat.error) }];
  });
}

const tooFew: Rule = (placement) =>
  refused(placement, 'too few clusters', (one, { variant, clusters, clusterBytes, least = 0 }) => ({
    rule: 'fat/too-few-clusters',
    sentence: `${one.slot.name} would have ${grouped(clusters)} clusters of ${inBinary(clusterBytes)}; FAT${variant} begins at ${grouped(leastClusters(variant))}. It needs ${sectorCount(least)} (${inBoth(least * placement.sectorSize)}).`,
    why: COUNT_WHY,
    remedies: [...(least * placement.sectorSize < 2 ** 33 ? grow(placement, one, least) : []), ...freeChoices(one)],
  }));

const tooMany: Rule = (placement) =>
  refused(placement, 'too many clusters', (one, { variant, clusters, clusterBytes, most = 0 }) => ({
    rule: 'fat/too-many-clusters',
    sentence: `${one.slot.name} would have ${grouped(clusters)} clusters of ${inBinary(clusterBytes)}; FAT${variant} ends at ${grouped(mostClusters(variant))}. It can use ${sectorCount(most)} (${inBoth(most * placement.sectorSize)}).`,
    why: COUNT_WHY,
    remedies: [...shrink(placement, one, most), ...freeChoices(one)],
  }));

const tooManySectors: Rule = (placement) =>
  refused(placement, 'too many sectors', (one, { most = 0 }) => ({
    rule: 'fat/too-many-sectors',
    sentence: `${one.slot.name} has ${sectorCount(one.sectors)}; a FAT volume counts them in 32 bits and can use ${grouped(most)} (${inBoth(most * placement.sectorSize)}).`,
    why: 'What lies behind them would be lost, and some readers refuse such a volume.',
    remedies: shrink(placement, one, most),
  }));

const clusterBelowSector: Rule = (placement) =>
  refused(placement, 'cluster size', (one, { clusterBytes }) => ({
    rule: 'fat/cluster-below-sector',
    sentence: `Clusters of ${inBinary(clusterBytes)} in ${one.slot.name} are smaller than a sector of ${inBinary(placement.sectorSize)}.`,
    why: 'A cluster is a whole number of sectors.',
    remedies: [refitting('Let the size decide the cluster', one.slot, { cluster: undefined })],
  }));

/** Volumes that can be made, with their geometry. */
const made = once((placement) =>
  fatPartitions(placement).flatMap((one) => (one.fat?.ok ? [{ slot: one.slot, geometry: one.fat.value }] : [])),
);

const NEIGHBOUR: Readonly<Record<Variant, string>> = { 12: 'FAT16', 16: 'FAT12 or FAT32', 32: 'FAT16' };

const nearBorder: Rule = (placement) =>
  made(placement)
    .filter(({ geometry: { variant, clusters } }) => borderDistance(variant, clusters) < BORDER)
    .map(({ slot, geometry: { variant, clusters } }) => ({
      rule: 'fat/near-the-border',
      severity: 'risk',
      place: atSlot(slot.id),
      sentence: `${slot.name} has ${grouped(clusters)} clusters, ${borderDistance(variant, clusters)} from the border to ${NEIGHBOUR[variant]}.`,
      why: 'Some readers draw the border up to 16 clusters away from where it is.',
      remedies: [refitting('Let the size decide the cluster', slot, { cluster: undefined })],
    }));

const largeClusters: Rule = (placement) =>
  made(placement)
    .filter(({ geometry }) => geometry.clusterBytes > 32 * 1024)
    .map(({ slot, geometry }) => ({
      rule: 'fat/clusters-of-64-kib',
      severity: 'risk',
      place: atSlot(slot.id),
      sentence: `${slot.name} has clusters of ${inBinary(geometry.clusterBytes)}.`,
      why: 'Many readers refuse clusters of more than 32 KiB.',
      remedies: [refitting('Use 32 KiB clusters', slot, { cluster: '32 KiB' })],
    }));

/** Volumes whose data area is off the unit: because it shall not be padded, or because that would cost too much. */
function offUnit(placement: Placement, isMeant: boolean) {
  return made(placement)
    .filter(({ slot, geometry }) => !geometry.onWantedUnit && (slot.fileSystem.padding === 'none') === isMeant)
    .map(({ slot, geometry }) => ({
      place: atSlot(slot.id),
      sentence: `The data area of ${slot.name} begins on a multiple of ${inBinary(geometry.unit)}, not of ${inBinary(placement.dataUnit)}.`,
      remedies: isMeant ? [refitting('Pad the reserved sectors', slot, { padding: undefined })] : [],
    }));
}

const dataOffUnit: Rule = (placement) =>
  offUnit(placement, false).map((told) => ({
    rule: 'fat/data-off-the-unit',
    severity: 'note',
    ...told,
    why: 'Padding to the larger unit would have cost more than 1/16 of the volume, or the clusters that make its variant.',
  }));

const SLOWER = 'is slower, and wears sooner, where clusters lie across its units.';

const notPaddedOnFlash: Rule = (placement) =>
  (isPlainFlash(placement.medium.kind) ? offUnit(placement, true) : []).map((told) => ({
    rule: 'fat/data-off-the-write-unit',
    severity: 'risk',
    ...told,
    why: `Flash ${SLOWER}`,
  }));

const notPadded: Rule = (placement) =>
  (isPlainFlash(placement.medium.kind) ? [] : offUnit(placement, true)).map((told) => ({
    rule: 'fat/not-padded',
    severity: 'note',
    ...told,
    why: `Should it come onto flash: that ${SLOWER}`,
  }));

const paddedReserved: Rule = (placement) =>
  made(placement)
    .filter(({ geometry }) => geometry.variant !== 32 && geometry.reserved > 1)
    .map(({ slot, geometry }) => ({
      rule: 'fat/more-than-one-reserved-sector',
      severity: 'note',
      place: atSlot(slot.id),
      sentence: `${slot.name} is FAT${geometry.variant} with ${grouped(geometry.reserved)} reserved sectors, so that its data area begins on the unit.`,
      why: 'Some very old readers take it for granted that there is one.',
      remedies: [
        refitting('Pad with a longer root directory', slot, { padding: 'root directory', rootEntries: undefined }),
        refitting('Do not pad', slot, { padding: 'none' }),
      ],
    }));

const sectorsUnused: Rule = (placement) =>
  made(placement)
    .filter(({ geometry }) => geometry.unused > 0)
    .map(({ slot, geometry }) => ({
      rule: 'fat/sectors-left-unused',
      severity: 'note',
      place: atSlot(slot.id),
      sentence: `The volume in ${slot.name} ends ${sectorCount(geometry.unused)} (${inBoth(geometry.unused * placement.sectorSize)}) before the partition does.`,
      why: `With more it would have too many clusters, or sectors, for FAT${geometry.variant}.`,
      remedies: slot.fileSystem.kind === 'fat' && slot.fileSystem.cluster === undefined ? [] : freeUnused(slot),
    }));

function freeUnused(slot: WithFat['slot']): Remedy[] {
  return slot.fileSystem.cluster !== undefined
    ? [refitting('Let the size decide the cluster', slot, { cluster: undefined })]
    : [refitting('Let the size decide the variant', slot, { kind: 'fat' })];
}

/** Cards up to this many bytes are FAT12 or FAT16 by the card standard. */
const SMALL_CARD = 2_000_000_000;

const cardStandard: Rule = (placement) => {
  const { medium } = placement;
  if (medium.kind !== 'card' || medium.capacity > SMALL_CARD) return [];
  const [first] = made(placement);
  if (first?.geometry.variant !== 32 || first.slot.role === 'esp') return [];
  return [
    {
      rule: 'fat/not-what-the-card-standard-says',
      severity: 'note',
      place: atSlot(first.slot.id),
      sentence: `${first.slot.name} is FAT32 on a card of ${inBoth(medium.capacity)}; cards up to 2 GB are FAT12 or FAT16 by their standard.`,
      why: 'Readers of such small cards may know nothing else.',
      remedies: [refitting('Make it FAT16', first.slot, { kind: 'fat16', cluster: undefined })],
    },
  ];
};

/** Systems of the BIOS era read FAT16 up to this many bytes, and the early ones no FAT32 at all. */
const OLD_READERS = 2 * 2 ** 30;

const oldReaders: Rule = (placement) => {
  const wall = placement.layout.machine?.biosWall;
  if (wall === undefined) return [];
  return made(placement)
    .map(({ slot, geometry }) => ({ slot, geometry, bytes: geometry.totalSectors * placement.sectorSize }))
    .filter(({ slot, geometry, bytes }) => geometry.variant === 32 && slot.role !== 'esp' && bytes < OLD_READERS)
    .map(({ slot, bytes }) => ({
      rule: 'fat/fat32-for-an-old-reader',
      severity: 'note',
      place: atSlot(slot.id),
      sentence: `${slot.name} (${inBoth(bytes)}) is FAT32, and the machine is so old that its BIOS ends at ${wall}.`,
      why: 'Systems of its age may know FAT16 alone, which reaches to 2 GiB.',
      remedies: [refitting('Make it FAT16', slot, { kind: 'fat16', cluster: undefined })],
    }));
};

const hiddenNotTold: Rule = (placement) =>
  made(placement)
    .filter(({ geometry }) => hiddenSectors(geometry.start) !== geometry.start)
    .map(({ slot, geometry }) => ({
      rule: 'fat/place-is-not-told',
      severity: 'note',
      place: atSlot(slot.id),
      sentence: `${slot.name} begins at sector ${grouped(geometry.start)}; the field of its header for that ends at ${grouped(2 ** 32 - 1)}, and 0 is written.`,
      why: 'BIOS calls alone go by it, and code that starts from it does not reach so far.',
      remedies: [],
    }));

const unevenRoot: Rule = (placement) =>
  fatPartitions(placement).flatMap(({ slot }): Finding[] => {
    const { rootEntries = 0 } = slot.fileSystem;
    const perSector = placement.sectorSize / 32;
    if (rootEntries % perSector === 0) return [];
    // The field has 16 bits: where no whole sectors more can be said, fewer can.
    const up = alignUp(rootEntries, perSector);
    const rounded = up < 2 ** 16 ? up : alignDown(rootEntries, perSector);
    return [
      {
        rule: 'fat/root-entries-off-the-sector',
        severity: 'stop',
        place: atSlot(slot.id),
        sentence: `${grouped(rootEntries)} root directory entries of ${slot.name} do not fill whole sectors of ${perSector}.`,
        why: 'Kernels refuse to mount such a volume.',
        remedies: [refitting(`Make it ${grouped(rounded)} entries`, slot, { rootEntries: rounded })],
      },
    ];
  });

export const FAT_RULES: readonly Rule[] = [
  tooFew,
  tooMany,
  tooManySectors,
  clusterBelowSector,
  nearBorder,
  largeClusters,
  dataOffUnit,
  notPaddedOnFlash,
  notPadded,
  paddedReserved,
  sectorsUnused,
  cardStandard,
  oldReaders,
  hiddenNotTold,
  unevenRoot,
];
