/** Findings about stored contents that a layout names: whether they are there, sound, and have room. */
import { kindOf } from '../../filesystems/kinds';
import { fillingOf, referredTo, withFiles } from '../../layout/contents';
import { blobOf } from '../../filesystems/supplied';
import type { PartitionSlot, RawSlot } from '../../layout/document';
import type { Stored } from '../../filesystems/fields';
import { withFreshId } from '../../layout/edits';
import type { PlacedPartition, Placement } from '../../placement/placement';
import { roomOf } from '../../placement/volumes';
import { counted, grouped, inBoth } from '../../quantity/units';
import {
  ROOM_TO_UPDATE,
  atSlot,
  changing,
  enlarged,
  type Occurrence,
  once,
  partitionsOf,
  type Place,
  type Remedy,
  type Rule,
  rule,
} from './finding';
import { imaged, left } from './image';
import { codeless, recoded } from './code';

/** Something that refers to supplied content. */
interface Reference {
  readonly what: string;
  readonly sha256: string;
  readonly isTree: boolean;
  readonly place: Place;
  readonly drop: Remedy;
  /** What the document says of a file, and the remedy that says another length. */
  readonly file?: { readonly size: number; readonly resize: (size: number) => Remedy };
}

const sizedLabel = (size: number) => `Name it with its ${counted(size, 'byte')}`;

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
            file: {
              size: slot.blob.size,
              resize: (size) => changing(sizedLabel(size), slot.id, { blob: { ...slot.blob!, size } }),
            },
          },
        ]
      : [];
  const { content } = slot;
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
  if (content?.kind === 'fat' && content.code) {
    const { code, ...rest } = content;
    references.push({
      ...at,
      what: `“${code.name}”, boot code of ${slot.name}`,
      sha256: code.sha256,
      drop: changing('Leave its own code out', slot.id, { content: rest }),
      file: {
        size: code.size,
        resize: (size) => changing(sizedLabel(size), slot.id, { content: { ...rest, code: { ...code, size } } }),
      },
    });
  }
  if (content && 'sha256' in content)
    references.push({
      ...at,
      what: `“${content.name}” for ${slot.name}`,
      sha256: content.sha256,
      drop: changing(`Leave ${slot.name} empty`, slot.id, { content: undefined }),
      file: {
        size: content.size,
        resize: (size) => changing(sizedLabel(size), slot.id, { content: { ...content, size } }),
      },
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
            file: { size: table.code.size, resize: (size) => recoded(placement, sizedLabel(size), { size }) },
          },
        ]
      : [];
  return [...code, ...slots.flatMap((slot) => (slot.kind === 'free' ? [] : slotReferences(slot)))];
}

/** Everything that the layout names by its SHA-256. */
const references = once((placement) => {
  const { trees, blobs } = referredTo(placement.layout);
  return trees.length + blobs.length === 0 ? [] : referencesOf(placement);
});

const notHere = rule('content/not-here', 'stop', (placement) =>
  references(placement)
    .filter(
      ({ sha256, isTree }) =>
        (isTree ? placement.contents.tree(sha256) : placement.contents.blob(sha256)) === 'missing',
    )
    .map(({ what, sha256, place, drop }) => ({
      place,
      sentence: `The layout names ${what} (SHA-256 ${sha256.slice(0, 12)}…), and it is not stored here.`,
      why: 'A document names files by their content only. Bring them among the contents of the slot, then they are known again.',
      remedies: [drop],
    })),
);

const damaged = rule('content/damaged', 'stop', (placement) =>
  references(placement)
    .filter(({ sha256, isTree }) => {
      const flaw = isTree ? placement.contents.flaws?.(sha256) : undefined;
      return flaw !== undefined || (!isTree && blobOf(sha256, placement.contents)?.damaged === true);
    })
    .map(({ what, sha256, isTree, place, drop }) => {
      const flaw = isTree ? placement.contents.flaws?.(sha256) : undefined;
      return {
        place,
        sentence:
          flaw === undefined
            ? `What is stored for ${what} (SHA-256 ${sha256.slice(0, 12)}…) has another sum: its bytes are not those that were supplied.`
            : `Among ${what}, ${flaw.inArchive ? 'the archive with ' : ''}“${flaw.path}” ${flaw.found === undefined ? 'is not stored here' : `has ${counted(flaw.found, 'byte')} in store, and the list says ${grouped(flaw.size)}`}.${flaw.others > 0 ? ` ${counted(flaw.others, 'other file')} likewise.` : ''}`,
        why: 'The disk of the data folder lost or changed it. Bring it among the contents again.',
        remedies: [drop],
      };
    }),
);

const otherSize = rule('content/other-size-than-named', 'stop', (placement) =>
  references(placement).flatMap(({ what, sha256, file, place, drop }): Occurrence[] => {
    const facts = file && blobOf(sha256, placement.contents);
    if (!facts || facts.damaged || facts.size === file.size) return [];
    return [
      {
        place,
        sentence: `The layout says that ${what} has ${counted(file.size, 'byte')}; it has ${grouped(facts.size)}.`,
        why: 'The document was changed by hand, or the file that is meant is another one.',
        remedies: [...(facts.size > 0 ? [file.resize(facts.size)] : []), drop],
      },
    ];
  }),
);

/** Partitions with a supplied file as a whole, image or not. */
function wholeFiles(placement: Placement): { readonly one: PlacedPartition; readonly file: Stored }[] {
  return partitionsOf(placement).flatMap((one) => {
    const { content } = one.slot;
    return content?.kind === 'image' || content?.kind === 'file' ? [{ one, file: content }] : [];
  });
}

const fileTooLarge = rule('content/larger-than-its-slot', 'stop', (placement) =>
  wholeFiles(placement)
    .filter(({ one, file }) => file.size > one.span.end - one.span.start)
    .map(({ one, file }) => ({
      place: atSlot(one.slot.id),
      sentence: `“${file.name}” has ${grouped(file.size)} bytes (${inBoth(file.size)}); ${one.slot.name} has ${grouped(one.span.end - one.span.start)}.`,
      why: 'It would run into what lies behind, or be cut.',
      remedies: [...enlarged(placement, one, file.size), left(one)],
    })),
);

/** Ids by which systems find what is inside, whatever it is. FAT volumes made here are compared with each other elsewhere. */
function idsInside(placement: Placement) {
  return partitionsOf(placement).flatMap((one) => {
    const { content } = one.slot;
    const identity = content && kindOf(content).identity;
    if (identity) return [{ one, id: identity.of(content), isFat: content.kind === 'fat' }];
    const id = content?.kind === 'image' ? blobOf(content.sha256, placement.contents)?.image?.id : undefined;
    return id ? [{ one, id, isFat: false }] : [];
  });
}

function freshId({ layout }: Placement, { slot }: PlacedPartition): Remedy[] {
  const content = slot.content && withFreshId(slot.content, layout, slot.id);
  return content ? [changing(`Give ${slot.name} an id of its own`, slot.id, { content })] : [];
}

const sharedId = rule('content/id-used-twice', 'risk', (placement) => {
  const seen = new Map<string, { one: PlacedPartition; isFat: boolean }>();
  return idsInside(placement).flatMap(({ one, id, isFat }): Occurrence[] => {
    const first = seen.get(id.toLowerCase());
    if (!first) seen.set(id.toLowerCase(), { one, isFat });
    if (!first || (first.isFat && isFat)) return [];
    const mended = freshId(placement, one);
    return [
      {
        place: atSlot(one.slot.id),
        sentence: `What is in ${one.slot.name} and what is in ${first.one.slot.name} have the same id, ${id}.`,
        why: 'A mount table or command line that names the id finds either of them.',
        remedies: mended.length > 0 ? mended : freshId(placement, first.one),
      },
    ];
  });
});

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
    if (!room || room.tree.length === 0) return [];
    // Of an ext its structures are a large part, and not among the blocks for files.
    const left = (room.clusters - room.used) * room.clusterBytes;
    return one.slot.content?.kind === 'ext'
      ? [{ one, what: 'Its files and structures take', taken: one.span.end - one.span.start - left }]
      : [{ one, what: 'Its files take', taken: room.used * room.clusterBytes }];
  });
  return [...ofImages, ...ofFiles].filter(({ one }) => one.slot.role === 'system');
}

const systemFull = rule('content/slot-over-85-full', 'risk', (placement) =>
  systems(placement)
    .map((each) => ({ ...each, size: each.one.span.end - each.one.span.start }))
    .filter(({ taken, size }) => taken > ROOM_TO_UPDATE * size && taken <= size)
    .map(({ one, what, taken, size }) => ({
      place: atSlot(one.slot.id),
      sentence: `${what} ${((100 * taken) / size).toFixed(1)} % of ${one.slot.name} (${inBoth(size)}).`,
      why: 'A later version of the system is larger; one that does not fit cannot be written in place.',
      remedies: enlarged(placement, one, taken / ROOM_TO_UPDATE),
    })),
);

/** Half a character, its other half missing. */
const HALF = /\p{Cs}/gu;

/** Contents whose label is free text; the characters of a FAT label are judged on their own. */
function freelyLabelled(placement: Placement) {
  return partitionsOf(placement).flatMap(({ slot: { id, name, content } }) =>
    (content?.kind === 'exfat' || content?.kind === 'ext' || content?.kind === 'swap') && content.label !== undefined
      ? [{ id, name, content, label: content.label }]
      : [],
  );
}

const halfLabel = rule('content/label-with-half-a-character', 'stop', (placement) =>
  freelyLabelled(placement)
    .filter(({ label }) => label.search(HALF) >= 0)
    .map(({ id, name, content, label }) => ({
      place: atSlot(id),
      sentence: `The label of ${name} has half a character at place ${label.search(HALF) + 1}.`,
      why: 'The other half is missing: systems show something else there, and nobody can type it.',
      remedies: [
        changing(`Write it as ${label.replace(HALF, '_')}`, id, {
          content: { ...content, label: label.replace(HALF, '_') },
        }),
      ],
    })),
);

export const CONTENT_RULES: readonly Rule[] = [
  notHere,
  damaged,
  otherSize,
  fileTooLarge,
  sharedId,
  systemFull,
  halfLabel,
];
