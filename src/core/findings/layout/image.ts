/** Findings about prepared images that a person supplied. */
import { hiddenSectors } from '../../filesystems/fat/geometry';
import { type BlobFacts, blobOf, type ImageFacts } from '../../filesystems/supplied';
import type { ImageContent } from '../../filesystems/image/shape';
import type { PlacedPartition, Placement } from '../../placement/placement';
import type { PartitionSlot } from '../../layout/document';
import { alignUp } from '../../quantity/integers';
import { counted, exactText, grouped, inBoth, withArticle } from '../../quantity/units';
import {
  ROOM_TO_UPDATE,
  atSlot,
  changing,
  enlarged,
  type Occurrence,
  once,
  partitionsOf,
  type Remedy,
  type Rule,
  rule,
} from './finding';

interface Imaged {
  readonly one: PlacedPartition;
  readonly content: ImageContent;
  readonly facts: BlobFacts | undefined;
}

export const imaged = once((placement): readonly Imaged[] =>
  partitionsOf(placement).flatMap((one) => {
    const { content } = one.slot;
    return content?.kind === 'image' ? [{ one, content, facts: blobOf(content.sha256, placement.contents) }] : [];
  }),
);

/** The way out that always is there. */
export const left = ({ slot }: PlacedPartition): Remedy =>
  changing(`Leave ${slot.name} empty`, slot.id, { content: undefined });

/** True where the place that a FAT header tells can be corrected. */
function isCorrectable({ start }: PlacedPartition, { variant }: ImageFacts): boolean {
  return variant !== undefined && start < 2 ** 32;
}

/** Images that hold a file system that was recognised. */
function recognised(placement: Placement): (Imaged & { readonly image: ImageFacts })[] {
  return imaged(placement).flatMap((each) => (each.facts?.image ? [{ ...each, image: each.facts.image }] : []));
}

const imageSectors = rule('image/of-other-sectors', 'stop', (placement) =>
  recognised(placement)
    .filter(
      ({ image: { sectorSize = placement.sectorSize, block = Infinity } }) =>
        sectorSize !== placement.sectorSize || block < placement.sectorSize,
    )
    .map(({ one, content, image: { name, sectorSize, block } }) => ({
      place: atSlot(one.slot.id),
      sentence: `“${content.name}” holds ${withArticle(name)} of ${sectorSize === undefined ? `${block}-byte blocks` : `${sectorSize}-byte sectors`}; the medium has ${placement.sectorSize}-byte sectors.`,
      why: 'Kernels refuse to mount it there, and firmware does not see it.',
      remedies: [left(one)],
    })),
);

const imageCut = rule('image/cut-short', 'stop', (placement) =>
  recognised(placement)
    .filter(({ facts, image }) => image.bytes !== undefined && image.bytes > facts!.size)
    .map(({ one, content, facts, image }) => ({
      place: atSlot(one.slot.id),
      sentence: `The ${image.name} in “${content.name}” says that it has ${grouped(image.bytes!)} bytes (${inBoth(image.bytes!)}), and the file ends after ${grouped(facts!.size)}.`,
      why: 'Its end is missing: files and structures there are lost, and its system finds zeros instead.',
      remedies: [left(one)],
    })),
);

/** Images of whole disks, and how they are called. */
function disks(placement: Placement) {
  return recognised(placement).flatMap(({ one, content, image: { disk, partitions = 0 } }) => {
    if (disk === undefined) return [];
    const sentence = `“${content.name}” (${inBoth(content.size)}) is the image of a whole disk with ${disk === 'mbr' ? 'an MBR' : 'a GPT'} and ${counted(partitions, 'partition')}.`;
    return [{ place: atSlot(one.slot.id), sentence, remedies: [left(one)] }];
  });
}

const imageOfDisk = rule('image/of-a-whole-disk', 'risk', (placement) =>
  (placement.layout.table.kind === 'none' ? [] : disks(placement)).map((text) => ({
    ...text,
    why: 'Kernels look for a table at the start of a medium, not within a partition: nobody finds the partitions in it.',
  })),
);

const imageWithTable = rule('image/brings-a-table', 'stop', (placement) =>
  (placement.layout.table.kind === 'none' ? disks(placement) : []).map((text) => ({
    ...text,
    why: 'The layout says that the medium has no table; with this image it would have one.',
  })),
);

const imageHidden = rule('image/hidden-sectors', 'risk', (placement) =>
  recognised(placement)
    .filter(
      ({ one, content, image }) =>
        image.hidden !== undefined && image.hidden !== hiddenSectors(one.start) && !content.hidden,
    )
    .map(({ one, content, image }) => ({
      place: atSlot(one.slot.id),
      sentence: `The header in “${content.name}” says that its volume begins at sector ${grouped(image.hidden!)}; in ${one.slot.name} it begins at ${grouped(one.start)}.`,
      why: 'Boot code and some firmware find the files by that field.',
      remedies: isCorrectable(one, image)
        ? [changing('Correct it while building', one.slot.id, { content: { ...content, hidden: 'corrected' } })]
        : [],
    })),
);

const nothingToCorrect = rule('image/place-is-not-corrected', 'note', (placement) =>
  recognised(placement)
    .filter(({ one, content, image }) => content.hidden !== undefined && !isCorrectable(one, image))
    .map(({ one, content, image }) => ({
      place: atSlot(one.slot.id),
      sentence:
        image.variant === undefined
          ? `The place of “${content.name}” is to be corrected, and it holds ${withArticle(image.name)}: it is put in as it is.`
          : `The place of “${content.name}” is to be corrected, and it begins at sector ${grouped(one.start)}: the field ends at ${grouped(2 ** 32 - 1)}.`,
      why: 'Only a FAT header is corrected, at places that its 32 bits can tell.',
      remedies: [changing('Put it in as it is', one.slot.id, { content: { ...content, hidden: undefined } })],
    })),
);

const imageOver = rule('image/file-system-over-its-slot', 'stop', (placement) =>
  recognised(placement)
    .filter(({ one, image }) => image.bytes !== undefined && image.bytes > one.span.end - one.span.start)
    .map(({ one, content, image }) => ({
      place: atSlot(one.slot.id),
      sentence: `The ${image.name} in “${content.name}” says that it has ${inBoth(image.bytes!)}; ${one.slot.name} has ${inBoth(one.span.end - one.span.start)}.`,
      why: 'Its system would write behind the partition.',
      remedies: [...enlarged(placement, one, image.bytes!), left(one)],
    })),
);

const imageFats = rule('image/fats-differ', 'risk', (placement) =>
  recognised(placement)
    .filter(({ image }) => image.fatsAgree === false)
    .map(({ one, content, image }) => ({
      place: atSlot(one.slot.id),
      sentence: `The two FATs of the ${image.name} in “${content.name}” differ.`,
      why: 'Readers that use the other one see other files.',
      remedies: [],
    })),
);

const imageHeader = rule('image/header-of-another-variant', 'risk', (placement) =>
  recognised(placement)
    .filter(({ image }) => image.headerOf !== undefined)
    .map(({ one, content, image }) => ({
      place: atSlot(one.slot.id),
      sentence: `By its clusters the volume in “${content.name}” (${inBoth(content.size)}) is ${image.name}, and it has the header of FAT${image.headerOf}.`,
      why: 'Readers that count and readers that look at the header disagree about what it is.',
      remedies: [left(one)],
    })),
);

const imageUnknown = rule('image/not-recognised', 'note', (placement) =>
  imaged(placement)
    .filter(({ facts }) => facts && !facts.image)
    .map(({ one, content }) => ({
      place: atSlot(one.slot.id),
      sentence: `In “${content.name}” (${inBoth(content.size)}) no file system was recognised.`,
      why: 'It may be a file of another kind; it is put in as it is.',
      remedies: [
        changing('Say that it is no file system', one.slot.id, {
          content: { kind: 'file', sha256: content.sha256, name: content.name, size: content.size },
        }),
      ],
    })),
);

/** Bytes that a slot with an image of so many wants, and how its size says so: a system keeps room for later versions. */
function wanted({ role }: PartitionSlot, bytes: number, { grain, sectorSize }: Placement) {
  if (role !== 'system') return { bytes, size: 'its image' };
  const withRoom = alignUp(Math.ceil(bytes / ROOM_TO_UPDATE), grain.bytes);
  return { bytes: withRoom, size: exactText(withRoom, sectorSize) };
}

const smallerThanItsSlot = rule('image/smaller-than-its-slot', 'note', (placement) =>
  partitionsOf(placement).flatMap(({ slot, sectors }): Occurrence[] => {
    const { content } = slot;
    if (content?.kind !== 'image') return [];
    const own = sectors * placement.sectorSize;
    const { bytes, size } = wanted(slot, content.size, placement);
    if (own - bytes < placement.grain.bytes) return [];
    const label = size === 'its image' ? `Make ${slot.name} as large as its image` : `Make ${slot.name} ${size}`;
    return [
      {
        place: atSlot(slot.id),
        sentence: `“${content.name}” has ${inBoth(content.size)}; ${inBoth(own - content.size)} of ${slot.name} behind it belong to no file system.`,
        why: 'The file system in the image does not grow by itself; until something grows it, nobody can use that space.',
        remedies: [changing(label, slot.id, { size })],
      },
    ];
  }),
);

export const IMAGE_RULES: readonly Rule[] = [
  imageSectors,
  imageCut,
  imageOfDisk,
  imageWithTable,
  imageHidden,
  nothingToCorrect,
  imageOver,
  imageFats,
  imageHeader,
  imageUnknown,
  smallerThanItsSlot,
];
