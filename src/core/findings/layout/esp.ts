/** Findings about what UEFI firmware reads: the ESP and the extended boot loader partition. */
import { grouped, inBoth, MIB } from '../../quantity/units';
import { madeAs } from '../../filesystems/kinds';
import type { PartitionSlot } from '../../layout/document';
import { derivedVolumeId, machineEdit, newSlotId } from '../../layout/edits';
import { retable } from '../../layout/translate';
import type { Placement } from '../../placement/placement';
import { promiseOf } from '../../tables/types';
import {
  addingSlot,
  atSlot,
  changing,
  entriesOf,
  fatPartitions,
  holdsFat,
  indexOfSlot,
  type Occurrence,
  refitting,
  type Remedy,
  type Rule,
  rule,
  sized,
} from './finding';

/** Partitions that firmware takes for an ESP. */
function espsOf(placement: Placement) {
  return entriesOf(placement).filter(({ entry }) => promiseOf(entry.type) === 'esp');
}

const wantsUefi = ({ layout }: Placement): boolean => layout.boots.includes('uefi');

function addEsp(placement: Placement): Remedy[] {
  const { layout, sectorSize } = placement;
  const id = newSlotId(layout);
  const first = layout.slots.findIndex((slot) => slot.kind === 'partition');
  const slot: PartitionSlot = {
    id,
    kind: 'partition',
    name: 'ESP',
    role: 'esp',
    size: sectorSize === 4096 ? '300 MiB' : '256 MiB',
    content: { kind: 'fat', variant: 32, label: 'ESP', volumeId: derivedVolumeId(layout, id) },
  };
  return addingSlot(placement, 'Add an ESP ahead of the partitions', slot, first < 0 ? layout.slots.length : first);
}

/** True where UEFI firmware finds something here: an ESP, or on other media a FAT that it can read. */
export function servesUefi(placement: Placement): boolean {
  if (placement.layout.table.kind === 'gpt') return espsOf(placement).length > 0;
  return fatPartitions(placement).length > 0 || espsOf(placement).length > 0;
}

const isElsewhere = ({ layout }: Placement): boolean => layout.machine?.esp !== undefined;

const noEsp = rule('esp/none', 'stop', (placement) => {
  const { layout } = placement;
  if (!wantsUefi(placement) || servesUefi(placement) || isElsewhere(placement)) return [];
  const isGpt = layout.table.kind === 'gpt';
  return [
    {
      place: { kind: 'boots' },
      sentence: `UEFI firmware is to start this medium, and none of its partitions (${layout.slots.filter((slot) => slot.kind === 'partition').length}) ${isGpt ? 'is an ESP' : 'holds a FAT file system'}.`,
      why: 'Firmware looks for loaders in an ESP, here or on another disk of the machine, and reads FAT and nothing else.',
      remedies: [
        ...(layout.table.kind === 'none' ? [] : addEsp(placement)),
        { label: 'It is on another disk', edit: machineEdit(placement.layout, { esp: 'elsewhere' }) },
        {
          label: 'It need not start from UEFI',
          edit: { do: 'change layout', patch: { boots: layout.boots.filter((one) => one !== 'uefi') } },
        },
      ],
    },
  ];
});

const espElsewhere = rule('esp/on-another-disk', 'risk', (placement) => {
  const { layout } = placement;
  if (!wantsUefi(placement) || servesUefi(placement) || !isElsewhere(placement)) return [];
  return [
    {
      place: { kind: 'boots' },
      sentence: `The ESP is said to be ${layout.machine?.esp === 'kept' ? 'in what stays on this medium' : 'on another disk'}; none of the partitions (${entriesOf(placement).length}) here is one.`,
      why: 'The medium starts only together with that ESP, and not any more when it is gone.',
      remedies: layout.table.kind === 'none' ? [] : addEsp(placement),
    },
  ];
});

const twoEsps = rule('esp/two', 'risk', (placement) => {
  const [first, ...others] = espsOf(placement);
  if (!first) return [];
  return others.map(({ slot, entry }) => ({
    place: atSlot(slot.id),
    sentence: `${slot.name} is a second ESP (partition ${entry.number}), beside ${first.slot.name} (partition ${first.entry.number}).`,
    why: 'Two confuse some firmware and some installers.',
    remedies: [changing(`Keep ${first.slot.name} as the only ESP`, slot.id, { role: 'boot', type: undefined })],
  }));
});

const espNotFat = rule('esp/not-fat', 'risk', (placement) =>
  espsOf(placement)
    .filter(({ slot }) => !holdsFat(slot, placement))
    .map(({ slot }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} is an ESP of ${inBoth(sizeOf(placement, slot.id))} without a FAT file system.`,
      why: 'UEFI firmware reads FAT and nothing else.',
      remedies: [
        changing('Make a FAT file system in it', slot.id, {
          content: { kind: 'fat', volumeId: derivedVolumeId(placement.layout, slot.id) },
        }),
      ],
    })),
);

function sizeOf(placement: Placement, id: string): number {
  return placement.placed.find((one) => one.slot.id === id)!.sectors * placement.sectorSize;
}

const smallFatEsp = rule('esp/not-fat32-on-a-disk', 'risk', (placement) => {
  const { kind } = placement.medium;
  if (kind !== 'disk' && kind !== 'solid-state') return [];
  return espsOf(placement).flatMap(({ slot, made }): Occurrence[] => {
    const fat = madeAs({ made }, 'fat');
    if (!fat?.ok || fat.value.variant === 32 || slot.content?.kind !== 'fat') return [];
    const withFs = { ...slot, content: slot.content };
    return [
      {
        place: atSlot(slot.id),
        sentence: `${slot.name} is an ESP with FAT${fat.value.variant} (${grouped(fat.value.clusters)} clusters) on a fixed disk.`,
        why: 'The specification allows it; some firmware looks for FAT32 there and nothing else.',
        remedies: [refitting('Make it FAT32', withFs, { variant: 32, cluster: undefined })],
      },
    ];
  });
});

function smallerThan(placement: Placement, bytes: number) {
  return espsOf(placement).filter(({ sectors }) => sectors * placement.sectorSize < bytes);
}

const smallEsp = rule('esp/under-100-mib', 'risk', (placement) =>
  smallerThan(placement, 100 * MIB)
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, sectors }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} is an ESP of ${inBoth(sectors * placement.sectorSize)}, under 100 MiB.`,
      why: 'Installers refuse it, or fill it up with their first update.',
      remedies: sized(placement, one, 256 * MIB),
    })),
);

const smallEspOn4096 = rule('esp/under-260-mib-on-4096', 'note', (placement) => {
  if (placement.sectorSize !== 4096) return [];
  return smallerThan(placement, 260 * MIB)
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, sectors }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} is an ESP of ${inBoth(sectors * 4096)} on sectors of 4,096 bytes, where 260 MiB are the customary least.`,
      why: 'FAT32 begins at 256.58 MiB there.',
      remedies: sized(placement, one, 300 * MIB),
    }));
});

const kernelsOnSmallEsp = rule('esp/small-for-kernels', 'note', (placement) =>
  espsOf(placement)
    .filter(({ slot, sectors }) => slot.mount === '/boot' && sectors * placement.sectorSize < 300 * MIB)
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, sectors }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} is mounted at /boot, so kernels will lie on an ESP of ${inBoth(sectors * placement.sectorSize)}.`,
      why: 'Two or three kernels with their RAM disks fill it.',
      remedies: sized(placement, one, 1024 * MIB),
    })),
);

const extendedNotFat = rule('esp/extended-boot-not-fat', 'risk', (placement) =>
  entriesOf(placement)
    .filter(({ slot, entry }) => promiseOf(entry.type) === 'extended boot' && !holdsFat(slot, placement))
    .map(({ slot, entry }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} (partition ${entry.number}) has the type of an extended boot loader partition and no FAT file system.`,
      why: 'Loaders find it by its type and read it through the firmware, which knows FAT only.',
      remedies: [
        changing('Make a FAT file system in it', slot.id, {
          content: { kind: 'fat', volumeId: derivedVolumeId(placement.layout, slot.id) },
        }),
      ],
    })),
);

const uefiFromMbr = rule('esp/uefi-from-mbr', 'risk', (placement) => {
  const { layout, medium } = placement;
  const isFixed = medium.kind === 'disk' || medium.kind === 'solid-state';
  if (!wantsUefi(placement) || layout.table.kind !== 'mbr' || !isFixed) return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `UEFI firmware is to start a fixed disk of ${inBoth(medium.capacity)} with an MBR.`,
      why: 'That works on most machines and not on all; a GPT is what firmware expects there.',
      remedies: [{ label: 'Write a GPT', edit: retable(layout, 'gpt') }],
    },
  ];
});

const espTypeOnData = rule('esp/type-on-other-role', 'note', (placement) =>
  espsOf(placement)
    .filter(({ slot }) => slot.type !== undefined && slot.role !== 'esp' && slot.role !== 'boot')
    .map(({ slot, entry }) => ({
      place: atSlot(slot.id),
      sentence: `Partition ${entry.number}, ${slot.name}, has the type of an ESP and the role ${slot.role}.`,
      why: 'Systems hide an ESP from people and may write loaders into it.',
      remedies: [
        changing('Let role and content decide the type', slot.id, { type: undefined }),
        changing(`Make ${slot.name} an ESP`, slot.id, { role: 'esp', type: undefined }),
      ],
    })),
);

/** Where an ESP is not among the first, some firmware of removable media does not look for it. */
const espBehindOthers = rule('esp/not-first-on-removable', 'note', (placement) => {
  const [first] = espsOf(placement);
  const { kind } = placement.medium;
  if (!first || first.entry.number === 1 || !wantsUefi(placement) || (kind !== 'stick' && kind !== 'card')) return [];
  const front = entriesOf(placement)[0]!;
  return [
    {
      place: atSlot(first.slot.id),
      sentence: `${first.slot.name} is partition ${first.entry.number} of a removable medium.`,
      why: 'Some firmware looks into the first partition of a stick or card only.',
      remedies: [
        {
          label: `Put ${first.slot.name} first`,
          edit: { do: 'move slot', id: first.slot.id, index: indexOfSlot(placement, front.slot.id) },
        },
      ],
    },
  ];
});

export const ESP_RULES: readonly Rule[] = [
  noEsp,
  espElsewhere,
  twoEsps,
  espNotFat,
  smallFatEsp,
  smallEsp,
  smallEspOn4096,
  kernelsOnSmallEsp,
  extendedNotFat,
  uefiFromMbr,
  espTypeOnData,
  espBehindOthers,
];
