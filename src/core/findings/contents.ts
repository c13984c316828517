/** Findings about what a person supplied for slots, code areas and raw ranges. */
import { codeRoom } from '../filesystems/fat/variants';
import { blobOf, type BlobFacts, fillingOf, type ImageFacts, referredTo, withFiles } from '../layout/contents';
import type { ImageContent, PartitionSlot, RawSlot, Stored } from '../layout/document';
import { isRaw, type PlacedPartition, type PlacedRaw, type Placement } from '../placement/placement';
import { isInCodeArea, takenOf, WHOLE_SECTOR } from '../placement/supplied';
import { roomOf } from '../placement/volumes';
import { alignUp } from '../quantity/integers';
import { counted, exactText, grouped, inBoth } from '../quantity/units';
import { CODE_LENGTH } from '../tables/mbr';
import {
  atSlot,
  changing,
  fatPartitions,
  type Finding,
  once,
  partitionsOf,
  type Place,
  type Remedy,
  type Rule,
} from './finding';

/** Something that refers to supplied content. */
interface Reference {
  readonly what: string;
  readonly sha256: string;
  readonly isTree: boolean;
  readonly place: Place;
  readonly drop: Remedy;
}

function codeless(placement: Placement): Remedy {
  const { table } = placement.layout;
  if (table.kind === 'none') throw new RangeError('no table, no code');
  const { code: _, ...rest } = table;
  return { label: 'Leave the code area empty', edit: { do: 'change layout', patch: { table: rest as typeof table } } };
}

function slotReferences(slot: PartitionSlot | RawSlot): Reference[] {
  const at = { place: atSlot(slot.id), isTree: false };
  if (slot.kind === 'raw')
    return slot.blob
      ? [
          {
            ...at,
            what: `“${slot.blob.name}” for ${slot.name}`,
            sha256: slot.blob.sha256,
            drop: changing(`Leave ${slot.name} empty`, slot.id, { blob: undefined }),
          },
        ]
      : [];
  const { content, fileSystem } = slot;
  const filling = fillingOf(slot);
  const references: Reference[] = [];
  if (filling?.files !== undefined)
    references.push({
      ...at,
      isTree: true,
      what: `the files of ${slot.name}`,
      sha256: filling.files,
      drop: changing(`Leave ${slot.name} empty`, slot.id, withFiles(slot, undefined)),
    });
  if (fileSystem?.code) {
    const { code, ...rest } = fileSystem;
    references.push({
      ...at,
      what: `“${code.name}”, boot code of ${slot.name}`,
      sha256: code.sha256,
      drop: changing('Leave the code away', slot.id, { fileSystem: rest }),
    });
  }
  if (content && 'sha256' in content)
    references.push({
      ...at,
      what: `“${content.name}” for ${slot.name}`,
      sha256: content.sha256,
      drop: changing(`Leave ${slot.name} empty`, slot.id, { content: undefined }),
    });
  return references;
}

function referencesOf(placement: Placement): Reference[] {
  const { table, slots } = placement.layout;
  const code: Reference[] =
    table.kind !== 'none' && table.code
      ? [
          {
            what: `“${table.code.name}”, code for sector 0`,
            sha256: table.code.sha256,
            isTree: false,
            place: { kind: 'table' },
            drop: codeless(placement),
          },
        ]
      : [];
  return [...code, ...slots.flatMap((slot) => (slot.kind === 'free' ? [] : slotReferences(slot)))];
}

const notHere: Rule = (placement) => {
  const { trees, blobs } = referredTo(placement.layout);
  if (trees.length + blobs.length === 0) return [];
  return referencesOf(placement)
    .filter(
      ({ sha256, isTree }) =>
        (isTree ? placement.contents.tree(sha256) : placement.contents.blob(sha256)) === 'missing',
    )
    .map(({ what, sha256, place, drop }) => ({
      rule: 'content/not-here',
      severity: 'stop',
      place,
      sentence: `The layout names ${what} (SHA-256 ${sha256.slice(0, 12)}…), and it is not stored here.`,
      why: 'A document names files by their content only. Bring them among the contents of the slot, then they are known again.',
      remedies: [drop],
    }));
};

/** Raw ranges with what they take of a file. */
const supplied = once((placement) =>
  placement.placed.filter(isRaw).flatMap((one) => {
    const taken = takenOf(one);
    return taken && one.slot.blob ? [{ one, taken, blob: one.slot.blob }] : [];
  }),
);

function lengthened(placement: Placement, { slot, span }: PlacedRaw, bytes: number): Remedy {
  const length = exactText(alignUp(span.start + bytes, placement.sectorSize) - span.start, placement.sectorSize);
  return changing(`Make ${slot.name} ${length} long`, slot.id, { length });
}

/** For a loader whose start lies in sector 0: where the rest of it is, one sector on. */
function divided(placement: Placement, { slot }: PlacedRaw): Remedy[] {
  const rest = placement.placed.filter(isRaw).find((one) => one.span.start === 512);
  const { blob } = slot;
  if (!rest || !blob) return [];
  return [
    {
      label: `Put the rest of it, from byte 512 on, into ${rest.slot.name}`,
      edit: {
        do: 'several',
        edits: [
          { do: 'change slot', id: slot.id, patch: { blob: { ...blob, take: CODE_LENGTH } } },
          {
            do: 'change slot',
            id: rest.slot.id,
            patch: { blob: { sha256: blob.sha256, name: blob.name, size: blob.size, from: 512 } },
          },
        ],
      },
    },
  ];
}

const blobTooLarge: Rule = (placement) =>
  supplied(placement)
    .filter(({ one, taken }) => taken.length > one.span.end - one.span.start)
    .map(({ one, taken, blob }) => ({
      rule: 'boot/blob-larger-than-its-range',
      severity: 'stop',
      place: atSlot(one.slot.id),
      sentence: `“${blob.name}” brings ${grouped(taken.length)} bytes into ${one.slot.name}, which has ${grouped(one.span.end - one.span.start)}: ${grouped(taken.length - (one.span.end - one.span.start))} too many.`,
      why: 'What runs over would lie on the table or in a partition, and one of the two would be lost.',
      remedies: isInCodeArea(placement, one) ? divided(placement, one) : [lengthened(placement, one, taken.length)],
    }));

const blobTakesNothing: Rule = (placement) =>
  supplied(placement)
    .filter(({ taken }) => taken.length === 0)
    .map(({ one, blob }) => ({
      rule: 'boot/blob-brings-nothing',
      severity: 'risk',
      place: atSlot(one.slot.id),
      sentence: `${one.slot.name} takes “${blob.name}” from byte ${grouped(blob.from ?? 0)} on, and it has ${counted(blob.size, 'byte')}.`,
      why: 'The range would be all zeros, and nothing starts from it.',
      remedies: [
        changing('Take it from its first byte', one.slot.id, {
          blob: { sha256: blob.sha256, name: blob.name, size: blob.size },
        }),
      ],
    }));

const codeTooLong: Rule = (placement) => {
  const { table } = placement.layout;
  if (table.kind === 'none' || !table.code || table.code.size <= CODE_LENGTH) return [];
  return [
    {
      rule: 'boot/sector-0-code-too-long',
      severity: 'stop',
      place: { kind: 'table' },
      sentence: `“${table.code.name}” has ${grouped(table.code.size)} bytes; the code area of sector 0 takes ${CODE_LENGTH}.`,
      why: 'Behind it stand the disk signature and the table. Of a file with a whole sector, take the first 440 bytes.',
      remedies: [codeless(placement)],
    },
  ];
};

const twoCodes: Rule = (placement) => {
  const { table } = placement.layout;
  const raw = supplied(placement).find(({ one }) => isInCodeArea(placement, one));
  if (table.kind === 'none' || !table.code || !raw) return [];
  return [
    {
      rule: 'boot/two-codes-for-sector-0',
      severity: 'stop',
      place: { kind: 'table' },
      sentence: `“${table.code.name}” and “${raw.blob.name}” (${raw.one.slot.name}) both claim the ${CODE_LENGTH} bytes of the code area.`,
      why: 'Only one of them can lie there.',
      remedies: [
        codeless(placement),
        changing(`Leave ${raw.one.slot.name} empty`, raw.one.slot.id, { blob: undefined }),
      ],
    },
  ];
};

const volumeCodeTooLong: Rule = (placement) =>
  fatPartitions(placement).flatMap(({ slot, fat }): Finding[] => {
    const { code, ...rest } = slot.fileSystem;
    if (!code || !fat?.ok || code.size === WHOLE_SECTOR || code.size <= codeRoom(fat.value.variant)) return [];
    return [
      {
        rule: 'boot/volume-code-too-long',
        severity: 'stop',
        place: atSlot(slot.id),
        sentence: `“${code.name}” has ${grouped(code.size)} bytes; the boot sector of ${slot.name} (FAT${fat.value.variant}) takes ${codeRoom(fat.value.variant)}, or a whole sector of ${WHOLE_SECTOR} of which that part is used.`,
        why: 'Before it stand the fields of the volume, behind it the mark AA55h.',
        remedies: [changing('Leave the code away', slot.id, { fileSystem: rest })],
      },
    ];
  });

interface Imaged {
  readonly one: PlacedPartition;
  readonly content: ImageContent;
  readonly facts: BlobFacts | undefined;
}

const imaged = once((placement): readonly Imaged[] =>
  partitionsOf(placement).flatMap((one) => {
    const { content } = one.slot;
    return content?.kind === 'image' ? [{ one, content, facts: blobOf(content.sha256, placement.contents) }] : [];
  }),
);

/** Images that hold a file system that was recognised. */
function recognised(placement: Placement): (Imaged & { readonly image: ImageFacts })[] {
  return imaged(placement).flatMap((each) => (each.facts?.image ? [{ ...each, image: each.facts.image }] : []));
}

export function enlarged(placement: Placement, { slot }: PlacedPartition, bytes: number): Remedy {
  const size = exactText(alignUp(bytes, placement.grain.bytes), placement.sectorSize);
  return changing(`Make ${slot.name} ${size}`, slot.id, { size });
}

/** Partitions with a supplied file as a whole, image or not. */
function wholeFiles(placement: Placement): { readonly one: PlacedPartition; readonly file: Stored }[] {
  return partitionsOf(placement).flatMap((one) => {
    const { content } = one.slot;
    return content?.kind === 'image' || content?.kind === 'blob' ? [{ one, file: content }] : [];
  });
}

const fileTooLarge: Rule = (placement) =>
  wholeFiles(placement)
    .filter(({ one, file }) => file.size > one.span.end - one.span.start)
    .map(({ one, file }) => ({
      rule: 'content/larger-than-its-slot',
      severity: 'stop',
      place: atSlot(one.slot.id),
      sentence: `“${file.name}” has ${grouped(file.size)} bytes (${inBoth(file.size)}); ${one.slot.name} has ${grouped(one.span.end - one.span.start)}.`,
      why: 'It would run into what lies behind, or be cut.',
      remedies: [enlarged(placement, one, file.size)],
    }));

const imageSectors: Rule = (placement) =>
  recognised(placement)
    .filter(({ image }) => image.sectorSize !== undefined && image.sectorSize !== placement.sectorSize)
    .map(({ one, content, image }) => ({
      rule: 'content/image-of-other-sectors',
      severity: 'stop',
      place: atSlot(one.slot.id),
      sentence: `“${content.name}” holds a ${image.name} of ${image.sectorSize}-byte sectors; the medium has ${placement.sectorSize}-byte sectors.`,
      why: 'Kernels refuse to mount it there, and firmware does not see it.',
      remedies: [changing(`Leave ${one.slot.name} empty`, one.slot.id, { content: undefined })],
    }));

const imageHidden: Rule = (placement) =>
  recognised(placement)
    .filter(({ one, content, image }) => image.hidden !== undefined && image.hidden !== one.start && !content.hidden)
    .map(({ one, content, image }) => ({
      rule: 'fat/hidden-sectors-of-an-image',
      severity: 'risk',
      place: atSlot(one.slot.id),
      sentence: `The header in “${content.name}” says that its volume begins at sector ${grouped(image.hidden!)}; in ${one.slot.name} it begins at ${grouped(one.start)}.`,
      why: 'Boot code and some firmware find the files by that field.',
      remedies: [changing('Correct it while building', one.slot.id, { content: { ...content, hidden: 'corrected' } })],
    }));

const imageOver: Rule = (placement) =>
  recognised(placement)
    .filter(({ one, image }) => image.bytes !== undefined && image.bytes > one.span.end - one.span.start)
    .map(({ one, content, image }) => ({
      rule: 'content/file-system-over-its-slot',
      severity: 'stop',
      place: atSlot(one.slot.id),
      sentence: `The ${image.name} in “${content.name}” says that it has ${inBoth(image.bytes!)}; ${one.slot.name} has ${inBoth(one.span.end - one.span.start)}.`,
      why: 'Its system would write behind the partition.',
      remedies: [enlarged(placement, one, image.bytes!)],
    }));

const imageFats: Rule = (placement) =>
  recognised(placement)
    .filter(({ image }) => image.fatsAgree === false)
    .map(({ one, content, image }) => ({
      rule: 'fat/copies-differ-in-an-image',
      severity: 'risk',
      place: atSlot(one.slot.id),
      sentence: `The two FATs of the ${image.name} in “${content.name}” differ.`,
      why: 'Readers that use the other one see other files.',
      remedies: [],
    }));

const imageHeader: Rule = (placement) =>
  recognised(placement)
    .filter(({ image }) => image.headerOf !== undefined)
    .map(({ one, content, image }) => ({
      rule: 'fat/header-of-another-variant-in-an-image',
      severity: 'risk',
      place: atSlot(one.slot.id),
      sentence: `By its clusters the volume in “${content.name}” (${inBoth(content.size)}) is ${image.name}, and it has the header of FAT${image.headerOf}.`,
      why: 'Readers that count and readers that look at the header disagree about what it is.',
      remedies: [changing(`Leave ${one.slot.name} empty`, one.slot.id, { content: undefined })],
    }));

const imageUnknown: Rule = (placement) =>
  imaged(placement)
    .filter(({ facts }) => facts && !facts.image)
    .map(({ one, content }) => ({
      rule: 'content/image-not-recognised',
      severity: 'note',
      place: atSlot(one.slot.id),
      sentence: `In “${content.name}” (${inBoth(content.size)}) no file system was recognised.`,
      why: 'It may be a file of another kind; it is put in as it is.',
      remedies: [
        changing('Say that it is no file system', one.slot.id, {
          content: { kind: 'blob', sha256: content.sha256, name: content.name, size: content.size },
        }),
      ],
    }));

/** A system that fills more than this part of its slot has no room to be updated in place. */
const ROOM_TO_UPDATE = 0.85;

/** What systems are made of: a prepared image, or files; and how many bytes of their slot it takes. */
function systems(
  placement: Placement,
): { readonly one: PlacedPartition; readonly what: string; readonly taken: number }[] {
  const ofImages = imaged(placement).map(({ one, content }) => ({
    one,
    what: `“${content.name}” takes`,
    taken: content.size,
  }));
  const ofFiles = partitionsOf(placement).flatMap((one) => {
    const room = roomOf(one, placement);
    return room && room.tree.length > 0 ? [{ one, what: 'Its files take', taken: room.used * room.clusterBytes }] : [];
  });
  return [...ofImages, ...ofFiles].filter(({ one }) => one.slot.role === 'system');
}

const systemFull: Rule = (placement) =>
  systems(placement)
    .map((each) => ({ ...each, size: each.one.span.end - each.one.span.start }))
    .filter(({ taken, size }) => taken > ROOM_TO_UPDATE * size && taken <= size)
    .map(({ one, what, taken, size }) => ({
      rule: 'system/slot-over-85-full',
      severity: 'risk',
      place: atSlot(one.slot.id),
      sentence: `${what} ${((100 * taken) / size).toFixed(1)} % of ${one.slot.name} (${inBoth(size)}).`,
      why: 'A later version of the system is larger; one that does not fit cannot be written in place.',
      remedies: [enlarged(placement, one, taken / ROOM_TO_UPDATE)],
    }));

export const CONTENT_RULES: readonly Rule[] = [
  notHere,
  blobTooLarge,
  blobTakesNothing,
  codeTooLong,
  twoCodes,
  volumeCodeTooLong,
  fileTooLarge,
  imageSectors,
  imageHidden,
  imageOver,
  imageFats,
  imageHeader,
  imageUnknown,
  systemFull,
];
