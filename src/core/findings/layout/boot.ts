/** Findings about what is to start from the medium. */
import { grouped, inBoth, MIB } from '../../quantity/units';
import type { PartitionSlot } from '../../layout/document';
import { hasOwnCode, hasSectorCode, takenOf } from '../../placement/supplied';
import { activateOnly, machineEdit, newSlotId } from '../../layout/edits';
import type { Boots } from '../../layout/vocabulary';
import { isRaw, lastSector, type Placement } from '../../placement/placement';
import { SECTOR_LIMIT } from '../../tables/mbr';
import { promiseOf } from '../../tables/types';
import {
  addingSlot,
  atSlot,
  changing,
  entriesOf,
  fatPartitions,
  type Occurrence,
  partitionsOf,
  type Place,
  type Remedy,
  type Rule,
  rule,
  sized,
} from './finding';

const NAMES: Readonly<Record<Boots, string>> = { uefi: 'UEFI firmware', bios: 'A BIOS', board: 'A board' };

function without(placement: Placement, boots: Boots, label: string): Remedy {
  return {
    label,
    edit: { do: 'change layout', patch: { boots: placement.layout.boots.filter((one) => one !== boots) } },
  };
}

const noActiveMark = rule('boot/no-active-mark', 'risk', (placement) => {
  const { layout } = placement;
  const partitions = layout.table.kind === 'mbr' ? partitionsOf(placement) : [];
  if (!layout.boots.includes('bios') || partitions.length === 0 || partitions.some(({ slot }) => slot.active))
    return [];
  const likely = partitions.find(({ slot }) => slot.role === 'boot' || slot.role === 'esp') ?? partitions[0]!;
  return [
    {
      place: { kind: 'boots' },
      sentence: `${NAMES.bios} is to start this medium, but none of its partitions (${partitions.length}) is marked active.`,
      why: 'BIOS loaders look for the active mark, and many a BIOS refuses a disk without one.',
      remedies: [{ label: `Mark ${likely.slot.name} active`, edit: activateOnly(layout, likely.slot.id) }],
    },
  ];
});

/** What our own code goes on with. */
const OWN = { loaderFrom: 'own code', loader: 'active partition' } as const;

/** The remedy that puts our own code into sector 0; none where it cannot be there. */
function ownCode(placement: Placement): Remedy[] {
  const { layout } = placement;
  if (!hasOwnCode({ ...placement, layout: { ...layout, machine: { ...layout.machine, ...OWN } } })) return [];
  return [{ label: 'Loess brings the code', edit: machineEdit(layout, OWN) }];
}

/** Why our own code is not there, though the layout asks for it. */
function whyNotOwn({ layout: { machine, table }, sectorSize }: Placement): string {
  if (machine?.loaderFrom !== 'own code') return '';
  return table.kind === 'gpt' && sectorSize !== 512
    ? ` Loess’s own code beside a GPT reads sectors of 512 bytes, and these have ${grouped(sectorSize)}.`
    : ' A raw range lies where Loess’s own code would.';
}

const noCode = rule('boot/no-code-in-sector-0', 'risk', (placement) => {
  const { layout } = placement;
  if (!layout.boots.includes('bios') || layout.table.kind === 'none' || hasSectorCode(placement)) return [];
  // An installer writes it when the medium is in its machine.
  if (layout.machine?.loaderFrom === 'installer') return [];
  return [
    {
      place: { kind: 'boots' },
      sentence: `${NAMES.bios} is named, and the 440 bytes of code in sector 0 are all zero: the medium will not start by itself.${whyNotOwn(placement)}`,
      why: 'A BIOS runs the code of sector 0 and nothing else; a loader must still be installed there.',
      remedies: [
        ...ownCode(placement),
        { label: 'An installer brings the loader', edit: machineEdit(layout, { loaderFrom: 'installer' }) },
        without(placement, 'bios', 'It need not start from BIOS'),
      ],
    },
  ];
});

/** The remedy that gives a loader a partition of its own. */
export function addBiosBoot(placement: Placement): Remedy[] {
  const { layout } = placement;
  const first = layout.slots.findIndex((slot) => slot.kind === 'partition');
  const slot = {
    id: newSlotId(layout),
    kind: 'partition',
    name: 'BIOS boot',
    role: 'bios-boot',
    size: '1 MiB',
  } as const;
  return addingSlot(placement, 'Add a BIOS boot partition', slot, Math.max(0, first));
}

const LEGACY = 'legacy boot';

/** Partitions of a GPT in which code of sector 0 finds a loader by their attribute. */
const legacyOnes = (placement: Placement) =>
  entriesOf(placement).filter(({ slot }) => slot.attributes?.includes(LEGACY));

/** Volumes with boot code of a person's own. */
const withCode = (placement: Placement) => fatPartitions(placement).filter(({ slot }) => slot.content.code);

const noBiosBoot = rule('boot/no-bios-boot-partition', 'risk', (placement) => {
  const { layout } = placement;
  const hasPlace = entriesOf(placement).some(({ entry }) => promiseOf(entry.type) === 'bios boot');
  if (!layout.boots.includes('bios') || layout.table.kind !== 'gpt' || hasPlace) return [];
  // A loader in a volume is found by an attribute, and needs no partition beside it.
  if (isInVolume(placement) || legacyOnes(placement).length > 0) return [];
  return [
    {
      place: { kind: 'boots' },
      sentence: `${NAMES.bios} is to start a medium with a GPT, and none of its partitions (${entriesOf(placement).length}) is a BIOS boot partition.`,
      why: 'Under a GPT there is no gap for a loader; it needs a partition of its own, of about 1 MiB.',
      remedies: [...addBiosBoot(placement), without(placement, 'bios', 'It need not start from BIOS')],
    },
  ];
});

/** True where the BIOS loader is said, or seen, to lie in a volume. */
function isInVolume(placement: Placement): boolean {
  return (
    placement.layout.machine?.loader === 'active partition' || hasOwnCode(placement) || withCode(placement).length > 0
  );
}

const noLegacyMark = rule('boot/no-legacy-boot-attribute', 'risk', (placement) => {
  const { layout } = placement;
  if (!layout.boots.includes('bios') || layout.table.kind !== 'gpt') return [];
  if (!isInVolume(placement) || legacyOnes(placement).length > 0) return [];
  const entries = entriesOf(placement);
  const id = (withCode(placement)[0] ?? fatPartitions(placement)[0])?.slot.id;
  const likely = entries.find(({ slot }) => slot.id === id) ?? entries[0];
  if (!likely) return [];
  const { slot } = likely;
  return [
    {
      place: { kind: 'boots' },
      sentence: `${NAMES.bios} is to start a loader in a volume, and none of the partitions (${entries.length}) has the attribute “${LEGACY}”.`,
      why: 'Under a GPT, code of sector 0 finds the volume to start by that attribute, as by the active mark of an MBR.',
      remedies: [
        changing(`Give ${slot.name} the attribute`, slot.id, { attributes: [...(slot.attributes ?? []), LEGACY] }),
      ],
    },
  ];
});

/** What sector 0 goes on with is there, but empty. */
/** True for a partition into which nothing is put but, at most, a FAT file system. */
const isEmpty = ({ content }: PartitionSlot): boolean =>
  content === undefined || content.kind === 'fat' || content.kind === 'left';

const nothingToLoad = rule('boot/nothing-behind-the-code', 'risk', (placement) => {
  const { layout, sectorSize } = placement;
  const loader = hasOwnCode(placement) ? 'active partition' : layout.machine?.loader;
  if (!layout.boots.includes('bios') || !hasSectorCode(placement) || loader === undefined) return [];
  const occurrence = (place: Place, sentence: string): Occurrence[] => [
    {
      place,
      sentence,
      why: 'The code of sector 0 would load it, and run whatever stands there.',
      remedies: [],
    },
  ];
  if (loader === 'active partition') {
    const isMbr = layout.table.kind === 'mbr';
    const empty = fatPartitions(placement).find(
      ({ slot }) => (isMbr ? slot.active : slot.attributes?.includes(LEGACY)) && !slot.content.code,
    );
    if (!empty) return [];
    return occurrence(
      atSlot(empty.slot.id),
      `Sector 0 has code that loads ${empty.slot.name} (sector ${grouped(empty.start)}), and its FAT has no boot code: it says that it does not boot.`,
    );
  }
  if (loader === 'gap') {
    const first = Math.min(...entriesOf(placement).map((one) => one.start));
    const isFilled = placement.placed.filter(isRaw).some((one) => one.start < first && takenOf(one) !== undefined);
    if (layout.table.kind !== 'mbr' || isFilled || !Number.isFinite(first)) return [];
    return occurrence(
      { kind: 'boots' },
      `The loader is said to lie in the gap, and the ${inBoth((first - 1) * sectorSize)} ahead of the first partition hold no file.`,
    );
  }
  const empty = entriesOf(placement).find(({ slot, entry }) => promiseOf(entry.type) === 'bios boot' && isEmpty(slot));
  if (!empty) return [];
  return occurrence(
    atSlot(empty.slot.id),
    `The loader is said to lie in ${empty.slot.name} (${inBoth(empty.sectors * sectorSize)}), and that holds no file.`,
  );
});

const smallBiosBoot = rule('boot/bios-boot-under-1-mib', 'risk', (placement) =>
  entriesOf(placement)
    .filter(({ slot, sectors }) => slot.role === 'bios-boot' && sectors * placement.sectorSize < MIB)
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, sectors }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} has ${inBoth(sectors * placement.sectorSize)} for a loader.`,
      why: 'Loaders with support for volume managers and RAID need up to 1 MiB.',
      remedies: sized(placement, one, MIB),
    })),
);

const beyondBios = rule('boot/beyond-the-reach-of-a-bios', 'stop', (placement) => {
  if (!placement.layout.boots.includes('bios')) return [];
  return partitionsOf(placement)
    .filter((one) => one.slot.role === 'boot' || one.slot.role === 'bios-boot' || one.slot.active === true)
    .filter((one) => lastSector(one) >= SECTOR_LIMIT)
    .map((one) => ({
      place: atSlot(one.slot.id),
      sentence: `${one.slot.name} ends at sector ${grouped(lastSector(one))}, and a BIOS is to start from it; many count to ${grouped(SECTOR_LIMIT - 1)}.`,
      why: 'What lies beyond may not be readable when the machine starts.',
      remedies: [
        { label: `Put ${one.slot.name} first`, edit: { do: 'move slot', id: one.slot.id, index: 0 } },
        without(placement, 'bios', 'It need not start from BIOS'),
      ],
    }));
});

const biosFrom4096 = rule('boot/bios-on-4096-byte-sectors', 'risk', (placement) => {
  if (!placement.layout.boots.includes('bios') || placement.sectorSize === 512) return [];
  return [
    {
      place: { kind: 'boots' },
      sentence: `${NAMES.bios} is to start a medium of 4,096-byte sectors.`,
      why: 'Most can read sectors of 512 bytes only.',
      remedies: [without(placement, 'bios', 'It need not start from BIOS')],
    },
  ];
});

const nothingForBoard = rule('boot/nothing-for-the-board', 'risk', ({ layout }) => {
  if (layout.machine?.board) return [];
  const bootable = layout.slots.some(
    (slot) => slot.kind === 'raw' || (slot.kind === 'partition' && slot.content?.kind === 'fat'),
  );
  if (!layout.boots.includes('board') || bootable) return [];
  return [
    {
      place: { kind: 'boots' },
      sentence: `${NAMES.board} is to start this medium, but there is neither a raw range for a loader nor a FAT partition.`,
      why: 'Boot ROMs load from a fixed place or from the first FAT partition.',
      remedies: [],
    },
  ];
});

export const BOOT_RULES: readonly Rule[] = [
  noActiveMark,
  noCode,
  noBiosBoot,
  noLegacyMark,
  nothingToLoad,
  smallBiosBoot,
  beyondBios,
  biosFrom4096,
  nothingForBoard,
];
