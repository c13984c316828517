/** Findings about the geometry of FAT volumes. */
import { GIB } from '../../quantity/units';
import { fatGeometry, type FatRefusal, hiddenSectors } from '../../filesystems/fat/geometry';
import {
  BORDER,
  borderDistance,
  clusterSizes,
  leastClusters,
  mostClusters,
  type Variant,
} from '../../filesystems/fat/variants';
import { isPlainFlash } from '../../medium/medium';
import type { Placement } from '../../placement/placement';
import { alignDown, alignUp } from '../../quantity/integers';
import { exactText, grouped, inBinary, inBoth, sectorCount } from '../../quantity/units';
import { fatQuestion } from '../../filesystems/fat/kind';
import { siteIn } from '../../placement/site';
import {
  asExfat,
  fatOf,
  atSlot,
  changing,
  fatPartitions,
  hasRoomFor,
  type Occurrence,
  once,
  refitting,
  type Remedy,
  type Rule,
  rule,
} from './finding';
import { LABEL_LENGTH, storedLabel } from '../../filesystems/fat/label';
import { derivedVolumeId } from '../../layout/edits';

type WithFat = ReturnType<typeof fatPartitions>[number];

const COUNT_WHY =
  'The number of clusters alone decides the variant: with a count of another one, readers disagree about what they see.';

/** Choices of a person without which the size would decide. */
function freeChoices({ slot }: WithFat): Remedy[] {
  const { variant, cluster } = slot.content;
  return [
    ...(cluster !== undefined ? [refitting('Let the size decide the cluster', slot, { cluster: undefined })] : []),
    ...(variant !== undefined ? [refitting('Let the size decide the variant', slot, { variant: undefined })] : []),
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

/** Larger clusters with which the variant reaches over the whole volume; those of 64 KiB by name of who reads them. */
function largerClusters(placement: Placement, one: WithFat, least: number): { remedies: Remedy[]; why: string } {
  const { slot } = one;
  const question = fatQuestion(slot.content, siteIn(one, placement));
  const cluster = clusterSizes(placement.sectorSize).find(
    (bytes) => bytes > least && fatGeometry({ ...question, cluster: bytes }).ok,
  );
  if (cluster === undefined) return { remedies: [], why: '' };
  const text = inBinary(cluster);
  return {
    remedies: [refitting(`Use ${text} clusters`, slot, { cluster: text })],
    why:
      cluster > LARGEST_FOR_ALL
        ? ` Clusters of ${text} are for systems of today: those of the BIOS era, boot ROMs and many devices cannot read them.`
        : '',
  };
}

/** The largest clusters that every reader of FAT knows. */
const LARGEST_FOR_ALL = 32 * 1024;

/** Findings about volumes that cannot be made for one reason. */
function refused(
  placement: Placement,
  reason: FatRefusal['reason'],
  describe: (one: WithFat, refusal: FatRefusal) => Omit<Occurrence, 'place'>,
): Occurrence[] {
  return fatPartitions(placement).flatMap((one): Occurrence[] => {
    const fat = fatOf(one);
    if (!fat || fat.ok || fat.error.reason !== reason) return [];
    return [{ place: atSlot(one.slot.id), ...describe(one, fat.error) }];
  });
}

const tooFew = rule('fat/too-few-clusters', 'stop', (placement) =>
  refused(placement, 'too few clusters', (one, { variant, clusters, clusterBytes, least = 0 }) => ({
    sentence: `${one.slot.name} would have ${grouped(clusters)} clusters of ${inBinary(clusterBytes)}; FAT${variant} begins at ${grouped(leastClusters(variant))}. It needs ${sectorCount(least)} (${inBoth(least * placement.sectorSize)}).`,
    why: COUNT_WHY,
    remedies: [...(least * placement.sectorSize < 2 ** 33 ? grow(placement, one, least) : []), ...freeChoices(one)],
  })),
);

const tooMany = rule('fat/too-many-clusters', 'stop', (placement) =>
  refused(placement, 'too many clusters', (one, { variant, clusters, clusterBytes, most = 0 }) => {
    const larger = largerClusters(placement, one, clusterBytes);
    return {
      sentence: `${one.slot.name} would have ${grouped(clusters)} clusters of ${inBinary(clusterBytes)}; FAT${variant} ends at ${grouped(mostClusters(variant))}. It can use ${sectorCount(most)} (${inBoth(most * placement.sectorSize)}).`,
      why: COUNT_WHY + larger.why,
      remedies: [...shrink(placement, one, most), ...freeChoices(one), ...larger.remedies, ...asExfat(placement, one)],
    };
  }),
);

const tooManySectors = rule('fat/too-many-sectors', 'stop', (placement) =>
  refused(placement, 'too many sectors', (one, { most = 0 }) => ({
    sentence: `${one.slot.name} has ${sectorCount(one.sectors)}; a FAT volume counts them in 32 bits and can use ${grouped(most)} (${inBoth(most * placement.sectorSize)}).`,
    why: 'What lies behind them would be lost, and some readers refuse such a volume.',
    remedies: [...shrink(placement, one, most), ...asExfat(placement, one)],
  })),
);

const clusterBelowSector = rule('fat/cluster-below-sector', 'stop', (placement) =>
  refused(placement, 'cluster size', (one, { clusterBytes }) => ({
    sentence: `Clusters of ${inBinary(clusterBytes)} in ${one.slot.name} are smaller than a sector of ${inBinary(placement.sectorSize)}.`,
    why: 'A cluster is a whole number of sectors.',
    remedies: [refitting('Let the size decide the cluster', one.slot, { cluster: undefined })],
  })),
);

/** Volumes that can be made, with their geometry. */
const made = once((placement) =>
  fatPartitions(placement).flatMap((one) => {
    const fat = fatOf(one);
    return fat?.ok ? [{ slot: one.slot, geometry: fat.value }] : [];
  }),
);

const NEIGHBOUR: Readonly<Record<Variant, string>> = { 12: 'FAT16', 16: 'FAT12 or FAT32', 32: 'FAT16' };

const nearBorder = rule('fat/near-the-border', 'risk', (placement) =>
  made(placement)
    .filter(({ geometry: { variant, clusters } }) => borderDistance(variant, clusters) < BORDER)
    .map(({ slot, geometry: { variant, clusters } }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} has ${grouped(clusters)} clusters, ${borderDistance(variant, clusters)} from the border to ${NEIGHBOUR[variant]}.`,
      why: 'Some readers draw the border up to 16 clusters away from where it is.',
      remedies: [refitting('Let the size decide the cluster', slot, { cluster: undefined })],
    })),
);

const largeClusters = rule('fat/clusters-of-64-kib', 'risk', (placement) =>
  made(placement)
    .filter(({ geometry }) => geometry.clusterBytes > 32 * 1024)
    .map(({ slot, geometry }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} has clusters of ${inBinary(geometry.clusterBytes)}.`,
      why: 'Many readers refuse clusters of more than 32 KiB.',
      remedies: [refitting('Use 32 KiB clusters', slot, { cluster: '32 KiB' })],
    })),
);

/** Volumes whose data area is off the unit: because it shall not be padded, or because that would cost too much. */
function offUnit(placement: Placement, isMeant: boolean) {
  return made(placement)
    .filter(({ slot, geometry }) => !geometry.onWantedUnit && (slot.content.padding === 'none') === isMeant)
    .map(({ slot, geometry }) => ({
      place: atSlot(slot.id),
      sentence: `The data area of ${slot.name} begins on a multiple of ${inBinary(geometry.unit)}, not of ${inBinary(placement.dataUnit)}.`,
      remedies: isMeant ? [refitting('Pad the reserved sectors', slot, { padding: undefined })] : [],
    }));
}

const dataOffUnit = rule('fat/data-off-the-unit', 'note', (placement) =>
  offUnit(placement, false).map((text) => ({
    ...text,
    why: 'Padding to the larger unit would have cost more than 1/16 of the volume, or the clusters that make its variant.',
  })),
);

const SLOWER = 'is slower, and wears sooner, where clusters lie across its units.';

const notPaddedOnFlash = rule('fat/data-off-the-write-unit', 'risk', (placement) =>
  (isPlainFlash(placement.medium.kind) ? offUnit(placement, true) : []).map((text) => ({
    ...text,
    why: `Flash ${SLOWER}`,
  })),
);

const notPadded = rule('fat/not-padded', 'note', (placement) =>
  (isPlainFlash(placement.medium.kind) ? [] : offUnit(placement, true)).map((text) => ({
    ...text,
    why: `Should it come onto flash: that ${SLOWER}`,
  })),
);

const paddedReserved = rule('fat/more-than-one-reserved-sector', 'note', (placement) =>
  made(placement)
    .filter(({ geometry }) => geometry.variant !== 32 && geometry.reserved > 1)
    .map(({ slot, geometry }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} is FAT${geometry.variant} with ${grouped(geometry.reserved)} reserved sectors, so that its data area begins on the unit.`,
      why: 'Some very old readers take it for granted that there is one.',
      remedies: [
        refitting('Pad with a longer root directory', slot, { padding: 'root directory', rootEntries: undefined }),
        refitting('Do not pad', slot, { padding: 'none' }),
      ],
    })),
);

const sectorsUnused = rule('fat/sectors-left-unused', 'note', (placement) =>
  made(placement)
    .filter(({ geometry }) => geometry.unused > 0)
    .map(({ slot, geometry }) => ({
      place: atSlot(slot.id),
      sentence: `The volume in ${slot.name} ends ${sectorCount(geometry.unused)} (${inBoth(geometry.unused * placement.sectorSize)}) before the partition does.`,
      why: `With more it would have too many clusters, or sectors, for FAT${geometry.variant}.`,
      remedies: slot.content.variant === undefined && slot.content.cluster === undefined ? [] : freeUnused(slot),
    })),
);

function freeUnused(slot: WithFat['slot']): Remedy[] {
  return slot.content.cluster !== undefined
    ? [refitting('Let the size decide the cluster', slot, { cluster: undefined })]
    : [refitting('Let the size decide the variant', slot, { variant: undefined })];
}

/** Cards up to this many bytes are FAT12 or FAT16 by the card standard. */
const SMALL_CARD = 2_000_000_000;

const cardStandard = rule('fat/not-what-the-card-standard-says', 'note', (placement) => {
  const { medium } = placement;
  if (medium.kind !== 'card' || medium.capacity > SMALL_CARD) return [];
  const [first] = made(placement);
  if (first?.geometry.variant !== 32 || first.slot.role === 'esp') return [];
  return [
    {
      place: atSlot(first.slot.id),
      sentence: `${first.slot.name} is FAT32 on a card of ${inBoth(medium.capacity)}; cards up to 2 GB are FAT12 or FAT16 by their standard.`,
      why: 'Readers of such small cards may know nothing else.',
      remedies: [refitting('Make it FAT16', first.slot, { variant: 16, cluster: undefined })],
    },
  ];
});

/** Systems of the BIOS era read FAT16 up to this many bytes, and the early ones no FAT32 at all. */
const OLD_READERS = 2 * GIB;

const oldReaders = rule('fat/fat32-for-an-old-reader', 'note', (placement) => {
  const limit = placement.layout.machine?.biosLimit;
  if (limit === undefined) return [];
  return made(placement)
    .map(({ slot, geometry }) => ({ slot, geometry, bytes: geometry.totalSectors * placement.sectorSize }))
    .filter(({ slot, geometry, bytes }) => geometry.variant === 32 && slot.role !== 'esp' && bytes < OLD_READERS)
    .map(({ slot, bytes }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} (${inBoth(bytes)}) is FAT32, and the machine is so old that its BIOS ends at ${limit}.`,
      why: 'Systems of its age may know FAT16 alone, which reaches to 2 GiB.',
      remedies: [refitting('Make it FAT16', slot, { variant: 16, cluster: undefined })],
    }));
});

const hiddenNotTold = rule('fat/place-is-not-told', 'note', (placement) =>
  made(placement)
    .filter(({ geometry }) => hiddenSectors(geometry.start) !== geometry.start)
    .map(({ slot, geometry }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} begins at sector ${grouped(geometry.start)}; the field of its header for that ends at ${grouped(2 ** 32 - 1)}, and 0 is written.`,
      why: 'BIOS calls alone go by it, and code that starts from it does not reach so far.',
      remedies: [],
    })),
);

const unevenRoot = rule('fat/root-entries-off-the-sector', 'stop', (placement) =>
  fatPartitions(placement).flatMap(({ slot }): Occurrence[] => {
    const { rootEntries = 0 } = slot.content;
    const perSector = placement.sectorSize / 32;
    if (rootEntries % perSector === 0) return [];
    // The field has 16 bits: where no whole sectors more can be said, fewer can.
    const up = alignUp(rootEntries, perSector);
    const rounded = up < 2 ** 16 ? up : alignDown(rootEntries, perSector);
    return [
      {
        place: atSlot(slot.id),
        sentence: `${grouped(rootEntries)} root directory entries of ${slot.name} do not fill whole sectors of ${perSector}.`,
        why: 'Kernels refuse to mount such a volume.',
        remedies: [refitting(`Make it ${grouped(rounded)} entries`, slot, { rootEntries: rounded })],
      },
    ];
  }),
);

/** FAT partitions with their labels as they will be stored. */
const labelled = once((placement) =>
  fatPartitions(placement).map(({ slot }) => ({ slot, stored: storedLabel(slot.content.label ?? '') })),
);

const forbiddenLabel = rule('fat/label-forbidden-characters', 'stop', (placement) =>
  labelled(placement).flatMap(({ slot, stored }): Occurrence[] => {
    if (stored.forbidden.length === 0) return [];
    return [
      {
        place: atSlot(slot.id),
        sentence: `The label “${slot.content.label}” has ${stored.forbidden.map((c) => `“${c}”`).join(', ')}, which a FAT label cannot hold.`,
        why: 'Readers refuse or misread such a label.',
        remedies: [refitting(`Write it as ${stored.text}`, slot, { label: stored.text })],
      },
    ];
  }),
);

const labelChanges = rule('fat/label-stored-as', 'note', (placement) =>
  labelled(placement).flatMap(({ slot, stored }): Occurrence[] => {
    const label = slot.content.label ?? '';
    if (stored.text === label || stored.forbidden.length > 0) return [];
    const cut = stored.cut ? `, without “${stored.cut}”` : '';
    return [
      {
        place: atSlot(slot.id),
        sentence:
          stored.text === ''
            ? `The label “${label}” stands for none: the volume will have no label.`
            : `The label “${label}” will be stored as ${stored.text}${cut}.`,
        why: `FAT labels have ${LABEL_LENGTH} characters, in upper case; blanks and NO NAME are no label.`,
        remedies: [
          stored.text === ''
            ? refitting('Leave it without a label', slot, { label: undefined })
            : refitting(`Write it as ${stored.text}`, slot, { label: stored.text }),
        ],
      },
    ];
  }),
);

/** Volumes whose key was seen before, with the first that had it. Volumes without a key are left out. */
function repeated<One>(volumes: readonly One[], keyOf: (one: One) => string) {
  const seen = new Map<string, One>();
  return volumes.flatMap((one) => {
    const key = keyOf(one);
    const first = seen.get(key);
    if (key !== '' && !first) seen.set(key, one);
    return first ? [{ one, first, key }] : [];
  });
}

const duplicateVolumeId = rule('fat/duplicate-volume-id', 'risk', (placement) =>
  repeated(fatPartitions(placement), ({ slot }) => slot.content.volumeId).map(({ one: { slot }, first, key }) => ({
    place: atSlot(slot.id),
    sentence: `${slot.name} and ${first.slot.name} both have the volume id ${key}.`,
    why: 'A mount table that names the id finds either of them.',
    remedies: [
      refitting(`Give ${slot.name} an id of its own`, slot, { volumeId: derivedVolumeId(placement.layout, slot.id) }),
    ],
  })),
);

const zeroVolumeId = rule('fat/zero-volume-id', 'note', (placement) =>
  fatPartitions(placement)
    .filter(({ slot }) => slot.content.volumeId === '0000-0000')
    .map(({ slot }) => ({
      place: atSlot(slot.id),
      sentence: `The volume id of ${slot.name} is 0000-0000.`,
      why: 'Systems take it for none, and cannot find the volume by it.',
      remedies: [refitting('Give it an id', slot, { volumeId: derivedVolumeId(placement.layout, slot.id) })],
    })),
);

/** A label with a number in place of its end. */
function numbered(label: string, taken: readonly string[]): string {
  for (let n = 2; ; n++) {
    const end = String(n);
    const candidate = `${label.slice(0, LABEL_LENGTH - end.length)}${end}`;
    if (!taken.includes(candidate)) return candidate;
  }
}

const duplicateLabel = rule('fat/duplicate-label', 'risk', (placement) => {
  const volumes = labelled(placement);
  const taken = volumes.map(({ stored }) => stored.text);
  return repeated(volumes, ({ stored }) => stored.text).map(({ one: { slot }, first, key }) => {
    const label = numbered(key, taken);
    return {
      place: atSlot(slot.id),
      sentence: `${slot.name} and ${first.slot.name} both have the label ${key}.`,
      why: 'Whoever looks for the label finds either of them.',
      remedies: [refitting(`Label ${slot.name} ${label}`, slot, { label })],
    };
  });
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
  forbiddenLabel,
  labelChanges,
  duplicateVolumeId,
  zeroVolumeId,
  duplicateLabel,
];
