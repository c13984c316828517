/** Findings about boot code and loaders that a person supplied: for sector 0, for raw ranges, for volumes. */
import { codeAt, codeRoom } from '../../filesystems/fat/variants';
import { blobOf } from '../../filesystems/supplied';
import type { RawSlot } from '../../layout/document';
import type { StoredPart } from '../../filesystems/fields';
import { newSlotId } from '../../layout/edits';
import { isRaw, type PlacedRaw, type Placement } from '../../placement/placement';
import { codeTaken, isZeros, takenOf } from '../../placement/supplied';
import { codeTrouble, WHOLE_SECTOR } from '../../filesystems/fat/boot-code';
import { alignUp } from '../../quantity/integers';
import { counted, exactText, grouped } from '../../quantity/units';
import { CODE_LENGTH } from '../../tables/mbr';
import { fatOf, atSlot, changing, fatPartitions, type Occurrence, once, type Remedy, type Rule, rule } from './finding';

export function codeless(placement: Placement): Remedy {
  const { table } = placement.layout;
  if (table.kind === 'none') throw new RangeError('no table, no code');
  const { code: _, ...rest } = table;
  return { label: 'Leave the code area empty', edit: { do: 'change layout', patch: { table: rest as typeof table } } };
}

/** The table with other code for sector 0. */
export function recoded({ layout: { table } }: Placement, label: string, patch: Partial<StoredPart>): Remedy {
  return {
    label,
    edit: {
      do: 'change layout',
      patch: { table: { ...table, code: { ...codeOf(table)!, ...patch } } as typeof table },
    },
  };
}

function codeOf(table: Placement['layout']['table']): StoredPart | undefined {
  return table.kind === 'none' ? undefined : table.code;
}

/** Raw ranges with what they take of a file. */
const supplied = once((placement) =>
  placement.placed.filter(isRaw).flatMap((one) => {
    const taken = takenOf(one);
    return taken && one.slot.blob ? [{ one, taken, blob: one.slot.blob }] : [];
  }),
);

function lengthened(placement: Placement, { slot, span }: PlacedRaw, bytes: number): Remedy[] {
  const end = alignUp(span.start + bytes, placement.sectorSize);
  // A range past the end of the medium helps nobody.
  if (end > placement.usable.end * placement.sectorSize) return [];
  const length = exactText(end - span.start, placement.sectorSize);
  return [changing(`Make ${slot.name} ${length} long`, slot.id, { length })];
}

/** Takes the part of the file for which there is room. */
function shortened({ slot, span }: PlacedRaw): Remedy[] {
  const { blob } = slot;
  const room = span.end - span.start;
  return blob ? [changing(`Take ${counted(room, 'byte')} of it`, slot.id, { blob: { ...blob, take: room } })] : [];
}

/** For a loader whose start lies in sector 0: where the rest of it is, one sector on. */
function divided(placement: Placement, { slot, span }: PlacedRaw): Remedy[] {
  const rest = placement.placed.filter(isRaw).find((one) => one.span.start === 512);
  const { blob } = slot;
  if (!rest || !blob || blob.size <= 512 || span.start !== 0) return [];
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

/** True for a raw range ahead of the table's own bytes in sector 0. */
const isInCodeArea = ({ layout: { table } }: Placement, { span }: PlacedRaw): boolean =>
  table.kind !== 'none' && span.start < CODE_LENGTH;

const blobTooLarge = rule('code/blob-larger-than-its-range', 'stop', (placement) =>
  supplied(placement)
    .filter(({ one, taken }) => taken.length > one.span.end - one.span.start)
    .map(({ one, taken, blob }) => ({
      place: atSlot(one.slot.id),
      sentence: `“${blob.name}” brings ${counted(taken.length, 'byte')} into ${one.slot.name}, which has ${grouped(one.span.end - one.span.start)}: ${grouped(taken.length - (one.span.end - one.span.start))} too many.`,
      why: 'What runs over would lie on the table or in a partition, and one of the two would be lost.',
      remedies: isInCodeArea(placement, one)
        ? [...divided(placement, one), ...shortened(one)]
        : [...lengthened(placement, one, taken.length), ...shortened(one)],
    })),
);

const blobTakesNothing = rule('code/blob-brings-nothing', 'risk', (placement) =>
  supplied(placement)
    .filter(({ taken }) => taken.length === 0)
    .map(({ one, blob }) => ({
      place: atSlot(one.slot.id),
      sentence: `${one.slot.name} takes “${blob.name}” from byte ${grouped(blob.from ?? 0)} on, and it has ${counted(blob.size, 'byte')}.`,
      why: 'The range would be all zeros, and nothing starts from it.',
      remedies: [
        changing('Take it from its first byte', one.slot.id, {
          blob: { sha256: blob.sha256, name: blob.name, size: blob.size },
        }),
      ],
    })),
);

/** For code that goes on behind sector 0: its first 440 bytes there, the rest from byte 512 on, where the gap holds it. */
function continued(placement: Placement, code: StoredPart): Remedy[] {
  const { layout, placed } = placement;
  const from = (code.from ?? 0) + 512;
  const length = code.size - from;
  const first = Math.min(...placed.map(({ span }) => span.start).filter((start) => start >= 512));
  if (layout.table.kind !== 'mbr' || length <= 0 || 512 + length > first) return [];
  const { sha256, name, size } = code;
  const slot: RawSlot = {
    id: newSlotId(layout),
    kind: 'raw',
    name: 'Loader, rest',
    at: '512 B',
    length: `${length} B`,
    blob: { sha256, name, size, from },
  };
  const { label, edit } = recoded(placement, `Put the rest of it, from byte 512 on, behind the table`, {
    take: CODE_LENGTH,
  });
  return [{ label, edit: { do: 'several', edits: [edit, { do: 'add slot', slot, index: 0 }] } }];
}

const codeTooLong = rule('code/sector-0-code-too-long', 'stop', (placement) => {
  const { table } = placement.layout;
  const code = codeOf(table);
  const taken = codeTaken(code);
  if (!code || !taken || taken.length <= CODE_LENGTH) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `“${code.name}” brings ${counted(taken.length, 'byte')}; the code area of sector 0 takes ${CODE_LENGTH}.`,
      why: 'Behind it stand the disk signature and the table. A longer loader usually goes on in the gap behind sector 0.',
      remedies: [
        recoded(placement, `Take the first ${CODE_LENGTH} bytes`, { take: CODE_LENGTH }),
        ...continued(placement, code),
        codeless(placement),
      ],
    },
  ];
});

const codeOfASector = rule('code/sector-0-code-of-a-whole-sector', 'note', (placement) => {
  const code = codeOf(placement.layout.table);
  const taken = codeTaken(code);
  if (!code || !taken || code.take !== undefined || code.size - (code.from ?? 0) !== WHOLE_SECTOR) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `Of the ${WHOLE_SECTOR} bytes of “${code.name}” the first ${CODE_LENGTH} are taken for the code area of sector 0.`,
      why: 'Behind them a boot sector has its signature and its table; here stand those of the layout.',
      remedies: [],
    },
  ];
});

const codeOfZeros = rule('code/sector-0-code-is-zeros', 'risk', (placement) => {
  const code = codeOf(placement.layout.table);
  const taken = codeTaken(code);
  if (!code || !taken || taken.length === 0 || !isZeros(taken, placement)) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `The ${counted(taken.length, 'byte')} that “${code.name}” brings into sector 0 are all zero.`,
      why: 'A BIOS that jumps there runs zeros as code, until the machine hangs.',
      remedies: [codeless(placement)],
    },
  ];
});

const codeBringsNothing = rule('code/sector-0-code-brings-nothing', 'risk', (placement) => {
  const code = codeOf(placement.layout.table);
  if (!code || codeTaken(code)!.length > 0) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `The code of sector 0 is taken from byte ${grouped(code.from ?? 0)} of “${code.name}” on, and that has ${counted(code.size, 'byte')}.`,
      why: 'The code area would be all zeros, and nothing starts from it.',
      remedies: [codeless(placement)],
    },
  ];
});

const twoCodes = rule('code/two-codes-for-sector-0', 'stop', (placement) => {
  const code = codeOf(placement.layout.table);
  const length = Math.min(CODE_LENGTH, codeTaken(code)?.length ?? 0);
  const raw = placement.placed.filter(isRaw).find(({ span }) => span.start < length);
  if (!code || !raw) return [];
  const { slot } = raw;
  return [
    {
      place: { kind: 'table' },
      sentence: `“${code.name}” and ${slot.blob ? `“${slot.blob.name}” (${slot.name})` : slot.name} both claim bytes of the ${CODE_LENGTH} of the code area.`,
      why: 'Only one of them can lie there.',
      remedies: [codeless(placement), { label: `Delete ${slot.name}`, edit: { do: 'remove slot', id: slot.id } }],
    },
  ];
});

const volumeCodeTooLong = rule('code/volume-code-too-long', 'stop', (placement) =>
  fatPartitions(placement).flatMap((one): Occurrence[] => {
    const { slot } = one;
    const fat = fatOf(one);
    const { code, ...rest } = slot.content;
    if (!code || !fat?.ok || code.size === WHOLE_SECTOR || code.size <= codeRoom(fat.value.variant)) return [];
    return [
      {
        place: atSlot(slot.id),
        sentence: `“${code.name}” has ${counted(code.size, 'byte')}; the boot sector of ${slot.name} (FAT${fat.value.variant}) takes ${codeRoom(fat.value.variant)}, or a whole sector of ${WHOLE_SECTOR} of which that part is used.`,
        why: 'Before it stand the fields of the volume, behind it the mark AA55h.',
        remedies: [changing('Leave its own code out', slot.id, { content: rest })],
      },
    ];
  }),
);

/** Boot code for volumes, with what its file says of itself. */
function volumeCodes(placement: Placement) {
  return fatPartitions(placement).flatMap((one) => {
    const { slot } = one;
    const fat = fatOf(one);
    const { code, ...rest } = slot.content;
    const facts = blobOf(code?.sha256, placement.contents);
    if (!code || !facts || !fat?.ok) return [];
    const trouble = codeTrouble(facts, fat.value.variant);
    const drop = changing('Leave its own code out', slot.id, { content: rest });
    return trouble ? [{ slot, code, variant: fat.value.variant, trouble, drop }] : [];
  });
}

const codeOfAnotherVariant = rule('code/volume-code-for-another-volume', 'stop', (placement) =>
  volumeCodes(placement).flatMap(({ slot, code, variant, trouble, drop }): Occurrence[] => {
    if (trouble.kind === 'no jump') return [];
    return [
      {
        place: atSlot(slot.id),
        sentence:
          trouble.kind === 'other variant'
            ? `“${code.name}” is a boot sector of ${trouble.variant === 32 ? 'FAT32' : 'FAT12 or FAT16'}; ${slot.name} is FAT${variant}.`
            : `The jump at the front of “${code.name}” leads to byte ${grouped(trouble.to)}; the code of a FAT${variant} stands in bytes ${codeAt(variant)} to 509.`,
        why: 'Its code begins elsewhere, behind other fields: what the jump of the volume leads to would be rubbish.',
        remedies: [drop],
      },
    ];
  }),
);

const codeWithoutJump = rule('code/volume-code-without-a-jump', 'risk', (placement) =>
  volumeCodes(placement).flatMap(({ slot, code, variant, trouble, drop }): Occurrence[] => {
    if (trouble.kind !== 'no jump') return [];
    return [
      {
        place: atSlot(slot.id),
        sentence: `“${code.name}” has the ${WHOLE_SECTOR} bytes of a whole boot sector and no jump at its front; in ${slot.name} its code is entered at byte ${codeAt(variant)}.`,
        why: 'Where it is to be entered is not known: a boot sector says so with the jump in its first bytes.',
        remedies: [drop],
      },
    ];
  }),
);

export const CODE_RULES: readonly Rule[] = [
  blobTooLarge,
  blobTakesNothing,
  codeTooLong,
  codeOfASector,
  codeOfZeros,
  codeBringsNothing,
  twoCodes,
  volumeCodeTooLong,
  codeOfAnotherVariant,
  codeWithoutJump,
];
