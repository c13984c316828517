/** Findings about FAT volumes that were found. */
import { hiddenSectors } from '../../filesystems/fat/geometry';
import { isOfTwoMinds } from '../../filesystems/fat/header';
import { BORDER, borderDistance } from '../../filesystems/fat/variants';
import { grouped, inBinary } from '../../quantity/units';
import { named } from '../../survey/structures';
import { forOtherSectors, overItsPlace, overVolumes, type SurveyRule } from './finding';

const volumes = overVolumes((inside) => (inside.kind === 'fat' ? inside.fat : undefined));

const hiddenWrong = volumes('found-fat/hidden-sectors-wrong', 'risk', ({ hidden }, one) =>
  hidden === hiddenSectors(one.start) || one.kind === 'logical'
    ? undefined
    : {
        sentence: `The volume in ${named(one)} says that it starts at sector ${grouped(hidden)}; it starts at ${grouped(one.start)}.`,
        why: 'Boot code finds its files by this figure.',
      },
);

const tooLong = volumes('found-fat/longer-than-its-place', 'stop', ({ beyondPlace }, one) =>
  beyondPlace === 0 ? undefined : { ...overItsPlace(one, beyondPlace) },
);

const otherSector = volumes('found-fat/for-another-sector-size', 'risk', ({ shape }, one, { sectorSize }) =>
  shape.sectorSize === sectorSize ? undefined : { ...forOtherSectors(one, shape.sectorSize, sectorSize) },
);

const wrongHeader = volumes('found-fat/header-of-another-variant', 'risk', ({ shape }, one) =>
  !isOfTwoMinds(shape)
    ? undefined
    : {
        sentence: `The volume in ${named(one)} has ${grouped(shape.clusters)} clusters, which makes it FAT${shape.variant}, and the header of FAT${shape.width}.`,
        why: 'Readers that count and readers that look at the header disagree about what it is.',
      },
);

const nearBorder = volumes('found-fat/near-the-border', 'risk', ({ shape: { variant, clusters } }, one) =>
  borderDistance(variant, clusters) >= BORDER
    ? undefined
    : {
        sentence: `The volume in ${named(one)} has ${grouped(clusters)} clusters, ${borderDistance(variant, clusters)} from the border of FAT${variant}.`,
        why: 'Some readers draw the border up to 16 clusters away from where it is.',
      },
);

const fatsDiffer = volumes('found-fat/copies-differ', 'risk', ({ fatsAgree }, one) =>
  fatsAgree
    ? undefined
    : {
        sentence: `The FATs of ${named(one)} differ, or do not lie inside of the volume.`,
        why: 'One of them is wrong; readers use the first.',
      },
);

const backupDiffers = volumes('found-fat/boot-sector-copy-differs', 'note', ({ backupAgrees }, one) =>
  backupAgrees
    ? undefined
    : {
        sentence: `The copy of the boot sector of ${named(one)} is missing or different.`,
        why: 'It would not help where the first one is lost.',
      },
);

const infoBad = volumes('found-fat/fsinfo-bad', 'note', ({ infoSound }, one) =>
  infoSound
    ? undefined
    : {
        sentence: `FSInfo of ${named(one)} does not have its three marks.`,
        why: 'Systems count the free clusters anew, which takes a while.',
      },
);

const UNKNOWN = 0xffffffff;

const countWrong = volumes('found-fat/free-count-wrong', 'note', ({ freeTold, freeCounted }, one) =>
  freeTold === undefined || freeTold === UNKNOWN || freeCounted === undefined || freeTold === freeCounted
    ? undefined
    : {
        sentence: `FSInfo of ${named(one)} tells ${grouped(freeTold)} free clusters; the FAT has ${grouped(freeCounted)}.`,
        why: 'Systems show a wrong figure of free space.',
      },
);

const mediaDiffers = volumes('found-fat/media-byte-differs', 'note', ({ mediaRepeated, media, fatsAgree }, one) =>
  mediaRepeated || !fatsAgree
    ? undefined
    : {
        sentence: `The first FAT entry of ${named(one)} does not repeat the media byte ${media.toString(16).toUpperCase()}h.`,
        why: 'Some readers take the volume for damaged.',
      },
);

const dirty = volumes('found-fat/not-unmounted', 'note', ({ cleanlyUnmounted, fatsAgree }, one) =>
  cleanlyUnmounted || !fatsAgree
    ? undefined
    : {
        sentence: `${named(one)} was not unmounted cleanly, or had read errors: the marks in FAT[1] are not set.`,
        why: 'Files that were open then may be cut short.',
      },
);

const rootBroken = volumes('found-fat/root-chain-broken', 'stop', ({ root, shape }, one) =>
  root.trouble === undefined
    ? undefined
    : {
        sentence: `The root directory of ${named(one)} begins in cluster ${grouped(shape.rootCluster)}, and its chain ${root.trouble}.`,
        why: 'Files may not be found.',
      },
);

const labelsDiffer = volumes('found-fat/labels-differ', 'note', ({ labelInHeader, root }, one) =>
  labelInHeader === root.label || root.trouble !== undefined
    ? undefined
    : {
        sentence: `${named(one)} is labelled “${labelInHeader}” in its header and “${root.label}” in its root directory.`,
        why: 'Readers disagree about which of them they show.',
      },
);

const largeClusters = volumes('found-fat/clusters-over-32-kib', 'risk', ({ shape }, one) =>
  shape.sectorsPerCluster * shape.sectorSize <= 32 * 1024
    ? undefined
    : {
        sentence: `${named(one)} has clusters of ${inBinary(shape.sectorsPerCluster * shape.sectorSize)}.`,
        why: 'Many readers refuse clusters of more than 32 KiB.',
      },
);

export const SURVEY_FAT_RULES: readonly SurveyRule[] = [
  hiddenWrong,
  tooLong,
  otherSector,
  wrongHeader,
  nearBorder,
  fatsDiffer,
  backupDiffers,
  infoBad,
  countWrong,
  mediaDiffers,
  dirty,
  rootBroken,
  labelsDiffer,
  largeClusters,
];
