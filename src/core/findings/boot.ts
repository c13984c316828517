/** Findings about what is to start from the medium. */
import { markOnly } from '../layout/edits';
import type { Boots } from '../layout/vocabulary';
import { fatPartitions, partitionsOf, type Remedy, type Rule } from './finding';
import type { Placement } from '../placement/placement';

const NAMES: Readonly<Record<Boots, string>> = { uefi: 'UEFI firmware', bios: 'A BIOS', board: 'A board' };

function without(placement: Placement, boots: Boots, label: string): Remedy {
  return {
    label,
    edit: { do: 'change layout', patch: { boots: placement.layout.boots.filter((one) => one !== boots) } },
  };
}

const noActiveMark: Rule = (placement) => {
  const { layout } = placement;
  const partitions = partitionsOf(placement);
  if (!layout.boots.includes('bios') || partitions.length === 0 || partitions.some(({ slot }) => slot.active))
    return [];
  const likely = partitions.find(({ slot }) => slot.role === 'boot' || slot.role === 'esp') ?? partitions[0]!;
  return [
    {
      rule: 'boot/no-active-mark',
      severity: 'risk',
      place: { kind: 'boots' },
      sentence: `${NAMES.bios} is to start this medium, but none of its ${partitions.length} partitions is marked active.`,
      why: 'BIOS loaders look for the active mark, and many a BIOS refuses a disk without one.',
      remedies: [{ label: `Mark ${likely.slot.name} active`, edit: markOnly(layout, likely.slot.id) }],
    },
  ];
};

const noCode: Rule = (placement) => {
  if (!placement.layout.boots.includes('bios')) return [];
  return [
    {
      rule: 'boot/no-code-in-sector-0',
      severity: 'risk',
      place: { kind: 'boots' },
      sentence: `${NAMES.bios} is named, and the 440 bytes of code in sector 0 are all zero: the medium will not start by itself.`,
      why: 'A BIOS runs the code of sector 0 and nothing else; a loader must still be installed there.',
      remedies: [without(placement, 'bios', 'It need not start from BIOS')],
    },
  ];
};

const nothingForUefi: Rule = (placement) => {
  const { layout } = placement;
  if (!layout.boots.includes('uefi') || fatPartitions(placement).length > 0) return [];
  return [
    {
      rule: 'boot/nothing-uefi-can-read',
      severity: 'risk',
      place: { kind: 'boots' },
      sentence: `${NAMES.uefi} is to start this medium, but none of its partitions holds a FAT file system.`,
      why: 'UEFI firmware reads FAT and nothing else.',
      remedies: [without(placement, 'uefi', 'It need not start from UEFI')],
    },
  ];
};

const nothingForBoard: Rule = ({ layout }) => {
  const bootable = layout.slots.some((slot) => slot.kind === 'raw' || (slot.kind === 'partition' && slot.fileSystem));
  if (!layout.boots.includes('board') || bootable) return [];
  return [
    {
      rule: 'boot/nothing-for-the-board',
      severity: 'risk',
      place: { kind: 'boots' },
      sentence: `${NAMES.board} is to start this medium, but there is neither a raw range for a loader nor a FAT partition.`,
      why: 'Boot ROMs load from a fixed place or from the first FAT partition.',
      remedies: [],
    },
  ];
};

export const BOOT_RULES: readonly Rule[] = [noActiveMark, noCode, nothingForUefi, nothingForBoard];
