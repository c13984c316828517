/** Findings about the machine: its firmware, its loader, how old it is. What is not known is asked. */
import { activateOnly, machineEdit } from '../../layout/edits';
import { BIOS_LIMITS, type Loader, LOADERS } from '../../layout/vocabulary';
import { lastSector, type Placement } from '../../placement/placement';
import { counted, grouped, inBinary, inBoth } from '../../quantity/units';
import { promiseOf } from '../../tables/types';
import { addBiosBoot } from './boot';
import { servesUefi } from './esp';
import { atSlot, changing, entriesOf, partitionsOf, type Remedy, type Rule, rule } from './finding';

const wantsBios = ({ layout }: Placement): boolean => layout.boots.includes('bios');

const LOADER_ANSWERS: Readonly<Record<Loader, string>> = {
  'active partition': 'Sector 0 starts the active partition',
  gap: 'It lies in the gap ahead of the first partition',
  'bios boot partition': 'It lies in the BIOS boot partition',
};

const loaderNotKnown = rule('machine/bios-loader-not-known', 'risk', (placement) => {
  const { layout } = placement;
  if (!wantsBios(placement) || layout.table.kind === 'none' || layout.machine?.loader) return [];
  const isGpt = layout.table.kind === 'gpt';
  const possible = LOADERS.filter((one) => (one === 'bios boot partition') === isGpt || one === 'active partition');
  return [
    {
      place: { kind: 'boots' },
      sentence: `A BIOS is to start this medium, and where its loader goes on from the 440 bytes in sector 0 is not said. Which one is it?`,
      why: 'What must be there, a mark, a gap or a partition, depends on it.',
      remedies: possible.map((loader) => ({
        label: LOADER_ANSWERS[loader],
        edit: machineEdit(placement.layout, { loader }),
      })),
    },
  ];
});

/** Sectors that a loader in the gap wants: 64 KiB. */
const GAP = 64 * 1024;

const smallGap = rule('machine/gap-too-small', 'risk', (placement) => {
  const { layout, sectorSize } = placement;
  const first = Math.min(...entriesOf(placement).map((one) => one.recordAt ?? one.start));
  const bytes = (first - 1) * sectorSize;
  if (!wantsBios(placement) || layout.machine?.loader !== 'gap' || layout.table.kind !== 'mbr') return [];
  if (!Number.isFinite(first) || bytes >= GAP) return [];
  return [
    {
      place: { kind: 'boots' },
      sentence: `The loader is to lie in the gap ahead of the first partition, which has ${grouped(first - 1)} sectors (${inBoth(bytes)}).`,
      why: 'With support for modern file systems a loader needs more than the 31 KiB of old disks.',
      remedies: [
        ...(layout.grain === undefined
          ? []
          : [{ label: 'Use the grain by rule', edit: { do: 'change layout', patch: { grain: undefined } } } as const]),
        {
          label: LOADER_ANSWERS['active partition'],
          edit: machineEdit(placement.layout, { loader: 'active partition' }),
        },
      ],
    },
  ];
});

const loaderWithoutPlace = rule('machine/loader-without-a-place', 'risk', (placement) => {
  const { layout } = placement;
  const loader = layout.machine?.loader;
  const wrong =
    (loader === 'gap' && layout.table.kind === 'gpt') ||
    (loader === 'bios boot partition' && layout.table.kind === 'mbr');
  if (!wantsBios(placement) || !wrong) return [];
  const other: Loader = layout.table.kind === 'gpt' ? 'bios boot partition' : 'gap';
  return [
    {
      place: { kind: 'boots' },
      sentence: `The loader is to lie in the ${loader}, and ${layout.table.kind === 'gpt' ? `a GPT has none: its entries begin in sector ${placement.gpt?.array ?? 2}` : `an MBR of ${counted(entriesOf(placement).length, 'partition')} knows no such type`}.`,
      why: 'It would be written over what does not belong to it, or nowhere.',
      remedies: [{ label: LOADER_ANSWERS[other], edit: machineEdit(placement.layout, { loader: other }) }],
    },
  ];
});

const oldBiosOnGpt = rule('machine/old-bios-on-gpt', 'risk', (placement) => {
  const { layout } = placement;
  const limit = layout.machine?.biosLimit;
  if (!wantsBios(placement) || !limit || layout.table.kind !== 'gpt') return [];
  return [
    {
      place: { kind: 'table' },
      sentence: `The machine is so old that its BIOS stops at ${limit}, and the medium has a GPT.`,
      why: 'Such a BIOS may refuse a disk whose only entry is of a type that it does not know, or that has no active mark.',
      remedies: [
        { label: 'The machine is not that old', edit: machineEdit(placement.layout, { biosLimit: undefined }) },
      ],
    },
  ];
});

/** Partitions that a BIOS reads to start: what is for booting, or the system where nothing is. */
function startedFrom(placement: Placement) {
  const partitions = partitionsOf(placement);
  const boot = partitions.filter(
    ({ slot }) => slot.active === true || slot.role === 'boot' || slot.role === 'bios-boot' || slot.mount === '/boot',
  );
  return boot.length > 0
    ? boot
    : partitions.filter(({ slot }) => slot.mount === '/' || slot.role === 'system').slice(0, 1);
}

const pastTheWall = rule('machine/past-an-old-bios-limit', 'risk', (placement) => {
  const { layout, sectorSize } = placement;
  const limit = layout.machine?.biosLimit;
  if (!wantsBios(placement) || !limit) return [];
  const bytes = BIOS_LIMITS[limit];
  return startedFrom(placement)
    .filter((one) => (lastSector(one) + 1) * sectorSize > bytes)
    .map((one) => ({
      place: atSlot(one.slot.id),
      sentence: `${one.slot.name} ends at ${inBinary((lastSector(one) + 1) * sectorSize)}; the BIOS of this machine reads up to ${inBoth(bytes)} (its ${limit} wall).`,
      why: 'It starts as long as the kernel happens to lie before the wall, and no longer after some update.',
      remedies: [
        ...(one.slot.mount === '/' || one.slot.role === 'system'
          ? [bootAhead(placement, one.slot.id)]
          : one.entry?.number === 1 || one.recordAt !== undefined
            ? []
            : [{ label: `Put ${one.slot.name} first`, edit: { do: 'move slot', id: one.slot.id, index: 0 } } as const]),
        { label: 'The machine is not that old', edit: machineEdit(placement.layout, { biosLimit: undefined }) },
      ],
    }));
});

/** A boot partition of its own ahead of a system that reaches past the wall. */
function bootAhead({ layout }: Placement, id: string): Remedy {
  const index = layout.slots.findIndex((slot) => slot.id === id);
  const fresh = `boot-of-${id}`.slice(0, 32);
  const isMarked = layout.slots.some((slot) => slot.id === id && slot.kind === 'partition' && slot.active);
  return {
    label: 'Add a boot partition of 256 MiB ahead of it',
    edit: {
      do: 'several',
      edits: [
        {
          do: 'add slot',
          index,
          slot: { id: fresh, kind: 'partition', name: 'Boot', role: 'boot', size: '256 MiB', mount: '/boot' },
        },
        ...(isMarked
          ? ([
              { do: 'change slot', id, patch: { active: undefined } },
              { do: 'change slot', id: fresh, patch: { active: true } },
            ] as const)
          : []),
      ],
    },
  };
}

const oneServed = rule('machine/one-of-two-firmwares-served', 'risk', (placement) => {
  const { layout } = placement;
  if (!layout.boots.includes('uefi') || !wantsBios(placement) || layout.table.kind === 'none') return [];
  const isGpt = layout.table.kind === 'gpt';
  const bios = entriesOf(placement).some(({ slot, entry }) =>
    isGpt ? promiseOf(entry.type) === 'bios boot' : slot.active === true,
  );
  const uefi = servesUefi(placement) || layout.machine?.esp !== undefined;
  if (bios === uefi) return [];
  const [served, other] = uefi ? ['UEFI', 'a BIOS'] : ['a BIOS', 'UEFI'];
  const partition = entriesOf(placement).find(({ slot }) => slot.content?.kind === 'fat') ?? entriesOf(placement)[0];
  const mend: Remedy[] =
    uefi && isGpt
      ? addBiosBoot(placement)
      : uefi && partition
        ? [{ label: `Mark ${partition.slot.name} active`, edit: activateOnly(layout, partition.slot.id) }]
        : [];
  return [
    {
      place: { kind: 'boots' },
      sentence: `UEFI and a BIOS are both to start this medium; of its partitions (${entriesOf(placement).length}) only ${served} finds what it needs, ${other} does not.`,
      why: 'On machines of the other kind it does not start.',
      remedies: [
        ...mend,
        {
          label: `It need not start from ${uefi ? 'BIOS' : 'UEFI'}`,
          edit: {
            do: 'change layout',
            patch: { boots: layout.boots.filter((one) => one !== (uefi ? 'bios' : 'uefi')) },
          },
        },
      ],
    },
  ];
});

const bootOnWrongType = rule('machine/type-decides-the-boot', 'stop', (placement) =>
  entriesOf(placement)
    .filter(({ slot, entry }) => {
      const promise = promiseOf(entry.type);
      const isBoot = slot.role === 'boot' || slot.role === 'esp';
      return isBoot && slot.content?.kind === 'fat' && (promise === 'swap' || promise === 'layered');
    })
    .map(({ slot, entry }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} (partition ${entry.number}) is for booting and holds FAT, and its type ${entry.type} says something else is inside.`,
      why: 'Systems use a partition of such a type without looking into it, and what boots from it is gone.',
      remedies: [changing('Let role and content decide the type', slot.id, { type: undefined })],
    })),
);

export const MACHINE_RULES: readonly Rule[] = [
  loaderNotKnown,
  smallGap,
  loaderWithoutPlace,
  oldBiosOnGpt,
  pastTheWall,
  oneServed,
  bootOnWrongType,
];
