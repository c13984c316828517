/** Findings about type codes against what is inside, and about who will show a partition. */
import type { Variant } from '../../filesystems/fat/variants';
import { kindOf, madeAs } from '../../filesystems/kinds';
import { blobOf, type Contents } from '../../filesystems/supplied';
import type { PartitionSlot } from '../../layout/document';
import { type Entered, lastSector } from '../../placement/placement';
import { grouped, withArticle } from '../../quantity/units';
import { CHS_REACH } from '../../tables/mbr';
import { isCylinderCode, promiseOf, typeName } from '../../tables/types';
import { atSlot, changing, entriesOf, type Occurrence, type Rule, rule } from './finding';

/** Promises that hold for each FAT variant. FAT12 has no code for 32 MiB and more: there it takes that of FAT16. */
export const KEPT: Readonly<Record<Variant, readonly string[]>> = {
  12: ['fat12', 'fat16'],
  16: ['fat16'],
  32: ['fat32'],
};

/** What is made in a partition, or supplied for it, that is no FAT file system made here. */
function otherContent(
  { content }: PartitionSlot,
  contents: Contents,
): { readonly name: string; readonly variant?: Variant } | undefined {
  if (content?.kind === 'ext') return { name: content.version };
  if (content?.kind === 'exfat' || content?.kind === 'swap') return { name: kindOf(content).word };
  return content?.kind === 'image' ? blobOf(content.sha256, contents)?.image : undefined;
}

/** What disagrees between the type and the content, in words. */
function disagreement({ slot, entry, made }: Entered, contents: Contents): string | undefined {
  const promise = promiseOf(entry.type);
  const fat = madeAs({ made }, 'fat');
  const variant = fat?.ok ? fat.value.variant : undefined;
  const isFatPromise = promise === 'fat12' || promise === 'fat16' || promise === 'fat32';
  if (variant !== undefined) {
    if (isFatPromise && !KEPT[variant].includes(promise))
      return `says ${promise.toUpperCase()}, and inside is FAT${variant}`;
    if (promise === 'linux') return `says Linux, and inside is FAT${variant}, which other systems then do not show`;
    if (promise === 'swap') return `says swap, and inside is FAT${variant}`;
    if (promise === 'bios boot') return `says that a loader is inside, and inside is FAT${variant}`;
  }
  const other = otherContent(slot, contents);
  if (other?.variant !== undefined && isFatPromise)
    return KEPT[other.variant].includes(promise)
      ? undefined
      : `says ${promise.toUpperCase()}, and inside is FAT${other.variant}`;
  if (other) {
    const isSwap = other.name.startsWith('swap');
    const clash =
      isFatPromise ||
      promise === 'esp' ||
      promise === 'bios boot' ||
      (promise === 'swap' && !isSwap) ||
      (isSwap && promise === 'basic data');
    if (clash && other.variant === undefined)
      return promise === 'bios boot'
        ? `says that a loader is inside, and inside is ${other.name}`
        : `says ${promise === 'esp' ? 'ESP' : promise.toUpperCase()}, and inside is ${other.name}`;
    return undefined;
  }
  if (slot.content?.kind !== 'fat' && isFatPromise && slot.role !== 'boot')
    return 'says FAT, and no FAT file system is made in it';
  return undefined;
}

const RULE_DECIDES = 'Let role and content decide the type';

const disagrees = rule('type/disagrees-with-content', 'risk', (placement) =>
  entriesOf(placement).flatMap((one): Occurrence[] => {
    const what = disagreement(one, placement.contents);
    const isByRule = one.slot.type === undefined;
    // An ESP without FAT is told by a rule of its own.
    if (!what || (isByRule && promiseOf(one.entry.type) === 'esp')) return [];
    return [
      {
        place: atSlot(one.slot.id),
        sentence: `Type ${typeName(one.entry.type)} of ${one.slot.name} ${what}.`,
        why: 'Some readers believe the table, others the content.',
        remedies: [
          isByRule
            ? changing(`Make ${one.slot.name} data`, one.slot.id, { role: 'data' })
            : changing(RULE_DECIDES, one.slot.id, { type: undefined }),
        ],
      },
    ];
  }),
);

/** What is to be in a partition that is swap, where that is surely none. */
function notSwap(slot: PartitionSlot, contents: Contents): string | undefined {
  if (slot.content?.kind === 'fat') return 'a FAT file system is to be made in it';
  const other = otherContent(slot, contents);
  if (!other || other.name.startsWith('swap')) return undefined;
  return `${withArticle(other.name)} is to be put into it`;
}

const swapWithFat = rule('type/swap-with-a-file-system', 'stop', (placement) =>
  entriesOf(placement)
    .flatMap((one) => {
      const what = one.slot.role === 'swap' ? notSwap(one.slot, placement.contents) : undefined;
      return what === undefined ? [] : [{ ...one, what }];
    })
    .map(({ slot, entry, what }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} (partition ${entry.number}) holds swap, and ${what}.`,
      why: 'A system that swaps to it destroys the file system, and one that mounts it has no swap.',
      remedies: [
        changing('Leave it to its system', slot.id, { content: { kind: 'left' } }),
        changing(`Make ${slot.name} data`, slot.id, { role: 'data' }),
      ],
    })),
);

const cylinderCodeTooFar = rule('type/cylinder-code-beyond-reach', 'risk', (placement) =>
  entriesOf(placement)
    .filter((one) => isCylinderCode(one.entry.type) && lastSector(one) >= CHS_REACH && one.slot.type !== undefined)
    .map((one) => ({
      place: atSlot(one.slot.id),
      sentence: `Type ${typeName(one.entry.type)} makes readers use cylinder addresses, which end at sector ${grouped(CHS_REACH - 1)}; ${one.slot.name} ends at ${grouped(lastSector(one))}.`,
      why: 'A reader that follows the cylinders finds the wrong sectors.',
      remedies: [changing(RULE_DECIDES, one.slot.id, { type: undefined })],
    })),
);

const sharedNotFirst = rule('type/shared-fat-not-first', 'risk', (placement) => {
  const [first, ...others] = entriesOf(placement);
  const shared = others.find(({ slot }) => slot.role === 'data' && slot.content?.kind === 'fat');
  if (placement.medium.kind !== 'stick' || !first || first.slot.content?.kind === 'fat' || !shared) return [];
  const index = placement.layout.slots.findIndex((slot) => slot.id === first.slot.id);
  return [
    {
      place: atSlot(shared.slot.id),
      sentence: `${shared.slot.name} holds FAT for other readers, but is partition ${shared.entry.number}.`,
      why: 'Several systems and most appliances show only the first partition of a stick.',
      remedies: [{ label: `Put ${shared.slot.name} first`, edit: { do: 'move slot', id: shared.slot.id, index } }],
    },
  ];
});

export const TYPE_RULES: readonly Rule[] = [disagrees, swapWithFat, cylinderCodeTooFar, sharedNotFirst];
