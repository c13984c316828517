/** Findings about type codes against what is inside, and about who will show a partition. */
import { lastSector, type PlacedPartition } from '../placement/placement';
import { grouped } from '../quantity/units';
import { CHS_REACH } from '../tables/mbr';
import { isCylinderCode, promiseOf, typeName } from '../tables/types';
import { atSlot, changing, type Finding, partitionsOf, type Rule } from './finding';

/** What disagrees between the type code and the content, in words. */
function disagreement({ slot, partition }: PlacedPartition): string | undefined {
  const promise = promiseOf(partition.type);
  const isFat = slot.fileSystem !== undefined;
  if (promise === 'container') return 'says that logical partitions are inside, and there are none';
  if (isFat && promise === 'smaller fat') return 'says FAT12 or FAT16, and inside is FAT32';
  if (isFat && promise === 'linux') return 'says Linux, and inside is FAT32, which other systems then do not show';
  if (isFat && promise === 'swap') return 'says swap, and inside is FAT32';
  if (!isFat && (promise === 'fat32' || promise === 'smaller fat') && slot.role !== 'boot')
    return 'says FAT, and no FAT file system is made in it';
  return undefined;
}

const disagrees: Rule = (placement) =>
  partitionsOf(placement).flatMap((one): Finding[] => {
    const what = disagreement(one);
    if (!what || one.slot.type === undefined) return [];
    return [
      {
        rule: 'type/disagrees-with-content',
        severity: 'risk',
        place: atSlot(one.slot.id),
        sentence: `Type ${typeName(one.partition.type)} of ${one.slot.name} ${what}.`,
        why: 'Some readers believe the table, others the content.',
        remedies: [changing('Let the content decide the type', one.slot.id, { type: undefined })],
      },
    ];
  });

const cylinderCodeTooFar: Rule = (placement) =>
  partitionsOf(placement)
    .filter((one) => isCylinderCode(one.partition.type) && lastSector(one) >= CHS_REACH)
    .map((one) => ({
      rule: 'type/cylinder-code-beyond-reach',
      severity: 'risk',
      place: atSlot(one.slot.id),
      sentence: `Type ${typeName(one.partition.type)} makes readers use cylinder addresses, which end at sector ${grouped(CHS_REACH - 1)}; ${one.slot.name} ends at ${grouped(lastSector(one))}.`,
      why: 'A reader that follows the cylinders finds the wrong sectors.',
      remedies: [changing('Let the content decide the type', one.slot.id, { type: undefined })],
    }));

const sharedNotFirst: Rule = (placement) => {
  const [first, ...others] = partitionsOf(placement);
  const shared = others.find(({ slot }) => slot.role === 'data' && slot.fileSystem);
  if (placement.medium.kind !== 'stick' || !first || first.slot.fileSystem || !shared) return [];
  const index = placement.layout.slots.findIndex((slot) => slot.id === first.slot.id);
  return [
    {
      rule: 'type/shared-fat-not-first',
      severity: 'risk',
      place: atSlot(shared.slot.id),
      sentence: `${shared.slot.name} holds FAT for other readers, but is partition ${shared.partition.number}.`,
      why: 'Several systems and most appliances show only the first partition of a stick.',
      remedies: [{ label: `Put ${shared.slot.name} first`, edit: { do: 'move slot', id: shared.slot.id, index } }],
    },
  ];
};

export const TYPE_RULES: readonly Rule[] = [disagrees, cylinderCodeTooFar, sharedNotFirst];
