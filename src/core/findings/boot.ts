/** Findings about what is to start from the medium. */
import { sectorCode } from '../placement/supplied';
import { markOnly, newSlotId } from '../layout/edits';
import type { Boots } from '../layout/vocabulary';
import { lastSector, type Placement } from '../placement/placement';
import { grouped, inBoth } from '../quantity/units';
import { SECTOR_LIMIT } from '../tables/mbr';
import { promiseOf } from '../tables/types';
import { atSlot, changing, entriesOf, partitionsOf, type Remedy, type Rule } from './finding';

const NAMES: Readonly<Record<Boots, string>> = { uefi: 'UEFI firmware', bios: 'A BIOS', board: 'A board' };

function without(placement: Placement, boots: Boots, label: string): Remedy {
  return {
    label,
    edit: { do: 'change layout', patch: { boots: placement.layout.boots.filter((one) => one !== boots) } },
  };
}

const noActiveMark: Rule = (placement) => {
  const { layout } = placement;
  const partitions = layout.table.kind === 'mbr' ? partitionsOf(placement) : [];
  if (!layout.boots.includes('bios') || partitions.length === 0 || partitions.some(({ slot }) => slot.active))
    return [];
  const likely = partitions.find(({ slot }) => slot.role === 'boot' || slot.role === 'esp') ?? partitions[0]!;
  return [
    {
      rule: 'boot/no-active-mark',
      severity: 'risk',
      place: { kind: 'boots' },
      sentence: `${NAMES.bios} is to start this medium, but none of its partitions (${partitions.length}) is marked active.`,
      why: 'BIOS loaders look for the active mark, and many a BIOS refuses a disk without one.',
      remedies: [{ label: `Mark ${likely.slot.name} active`, edit: markOnly(layout, likely.slot.id) }],
    },
  ];
};

const noCode: Rule = (placement) => {
  const { layout } = placement;
  if (!layout.boots.includes('bios') || layout.table.kind === 'none' || layout.table.code) return [];
  if (sectorCode(placement).length > 0) return [];
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

const MIB = 1024 * 1024;

/** The remedy that gives a loader a partition of its own. */
export function addBiosBoot({ layout }: Placement): Remedy {
  const first = layout.slots.findIndex((slot) => slot.kind === 'partition');
  const slot = {
    id: newSlotId(layout),
    kind: 'partition',
    name: 'BIOS boot',
    role: 'bios-boot',
    size: '1 MiB',
  } as const;
  return { label: 'Add a BIOS boot partition', edit: { do: 'add slot', index: Math.max(0, first), slot } };
}

const noBiosBoot: Rule = (placement) => {
  const { layout } = placement;
  const hasPlace = entriesOf(placement).some(({ entry }) => promiseOf(entry.type) === 'bios boot');
  if (!layout.boots.includes('bios') || layout.table.kind !== 'gpt' || hasPlace) return [];
  return [
    {
      rule: 'boot/no-bios-boot-partition',
      severity: 'risk',
      place: { kind: 'boots' },
      sentence: `${NAMES.bios} is to start a medium with a GPT, and none of its partitions (${entriesOf(placement).length}) is a BIOS boot partition.`,
      why: 'Under a GPT there is no gap for a loader; it needs a partition of its own, of about 1 MiB.',
      remedies: [addBiosBoot(placement), without(placement, 'bios', 'It need not start from BIOS')],
    },
  ];
};

const smallBiosBoot: Rule = (placement) =>
  entriesOf(placement)
    .filter(({ slot, sectors }) => slot.role === 'bios-boot' && sectors * placement.sectorSize < MIB)
    .map(({ slot, sectors }) => ({
      rule: 'boot/bios-boot-under-1-mib',
      severity: 'risk',
      place: atSlot(slot.id),
      sentence: `${slot.name} has ${inBoth(sectors * placement.sectorSize)} for a loader.`,
      why: 'Loaders with support for volume managers and RAID need up to 1 MiB.',
      remedies: [changing(`Make ${slot.name} 1 MiB`, slot.id, { size: '1 MiB' })],
    }));

const beyondBios: Rule = (placement) => {
  if (!placement.layout.boots.includes('bios')) return [];
  return partitionsOf(placement)
    .filter((one) => one.slot.role === 'boot' || one.slot.role === 'bios-boot' || one.slot.active === true)
    .filter((one) => lastSector(one) >= SECTOR_LIMIT)
    .map((one) => ({
      rule: 'boot/beyond-the-reach-of-a-bios',
      severity: 'stop',
      place: atSlot(one.slot.id),
      sentence: `${one.slot.name} ends at sector ${grouped(lastSector(one))}, and a BIOS is to start from it; many count to ${grouped(SECTOR_LIMIT - 1)}.`,
      why: 'What lies beyond may not be readable when the machine starts.',
      remedies: [
        { label: `Put ${one.slot.name} first`, edit: { do: 'move slot', id: one.slot.id, index: 0 } },
        without(placement, 'bios', 'It need not start from BIOS'),
      ],
    }));
};

const biosFrom4096: Rule = (placement) => {
  if (!placement.layout.boots.includes('bios') || placement.sectorSize === 512) return [];
  return [
    {
      rule: 'boot/bios-on-4096-byte-sectors',
      severity: 'risk',
      place: { kind: 'boots' },
      sentence: `${NAMES.bios} is to start a medium of 4,096-byte sectors.`,
      why: 'Most can read sectors of 512 bytes only.',
      remedies: [without(placement, 'bios', 'It need not start from BIOS')],
    },
  ];
};

const nothingForBoard: Rule = ({ layout }) => {
  if (layout.machine?.board) return [];
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

export const BOOT_RULES: readonly Rule[] = [
  noActiveMark,
  noCode,
  noBiosBoot,
  smallBiosBoot,
  beyondBios,
  biosFrom4096,
  nothingForBoard,
];
