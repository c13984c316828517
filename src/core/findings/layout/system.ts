/** Findings about the system that will use the medium. */
import { exactText, GIB, grouped, inBoth, MIB, sectorCount } from '../../quantity/units';
import { isPlainFlash } from '../../medium/medium';
import type { PlacedPartition, Placement } from '../../placement/placement';
import {
  addingSlot,
  atSlot,
  changing,
  entriesOf,
  type Occurrence,
  partitionsOf,
  type Rule,
  rule,
  sized,
} from './finding';
import { machineEdit, newSlotId } from '../../layout/edits';
import { promiseOf, typeName } from '../../tables/types';

const mountedTwice = rule('system/mount-point-twice', 'stop', (placement) => {
  const seen = new Map<string, string>();
  return partitionsOf(placement).flatMap(({ slot }): Occurrence[] => {
    if (slot.mount === undefined) return [];
    const first = seen.get(slot.mount);
    if (first === undefined) {
      seen.set(slot.mount, slot.name);
      return [];
    }
    return [
      {
        place: atSlot(slot.id),
        sentence: `${slot.name} and ${first} are both mounted at ${slot.mount}.`,
        why: 'The second one hides the first.',
        remedies: [changing(`Leave ${slot.name} without a mount point`, slot.id, { mount: undefined })],
      },
    ];
  });
});

/** `System A` and `System B`: slots that differ in their last letter only. */
function twins(placement: Placement): [PlacedPartition, PlacedPartition][] {
  const systems = partitionsOf(placement).filter(({ slot }) => slot.role === 'system');
  return systems.flatMap((one): [PlacedPartition, PlacedPartition][] => {
    if (!/[ _-]A$/.test(one.slot.name)) return [];
    const other = systems.find(({ slot }) => slot.name === `${one.slot.name.slice(0, -1)}B`);
    return other ? [[one, other]] : [];
  });
}

const unequalTwins = rule('system/a-and-b-differ', 'risk', (placement) =>
  twins(placement)
    .filter(([a, b]) => a.sectors !== b.sectors && a.sectors > 0)
    .map(([a, b]) => ({
      place: atSlot(b.slot.id),
      sentence: `${a.slot.name} has ${sectorCount(a.sectors)} and ${b.slot.name} ${grouped(b.sectors)}: ${inBoth(Math.abs(a.sectors - b.sectors) * placement.sectorSize)} apart.`,
      why: 'An image made for the larger one does not fit the other.',
      remedies: [
        changing(`Make ${b.slot.name} as large as ${a.slot.name}`, b.slot.id, { size: sizeText(placement, a) }),
      ],
    })),
);

function sizeText(placement: Placement, { slot, sectors, rule }: PlacedPartition): string {
  return rule?.kind === 'exact' ? slot.size : exactText(sectors * placement.sectorSize, placement.sectorSize);
}

const smallBoot = rule('system/small-boot', 'note', (placement) =>
  partitionsOf(placement)
    .filter(
      ({ slot, sectors }) =>
        slot.mount === '/boot' && slot.role !== 'esp' && sectors * placement.sectorSize < 300 * MIB,
    )
    .filter(() => !placement.layout.boots.includes('board'))
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, sectors }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} has ${inBoth(sectors * placement.sectorSize)} for kernels and their RAM disks.`,
      why: 'Updates keep two or three of them; a /boot of its own wants 300 MiB and more.',
      remedies: sized(placement, one, 512 * MIB),
    })),
);

/** Mount points that only a system needs: who has one has a root somewhere. */
const OF_A_SYSTEM = ['/boot', '/boot/efi', '/efi', '/usr', '/var', '/home'];

/** Partitions that a system may start in: mounted at the root, or systems whose mount point is not said. */
function rootsOf(placement: Placement) {
  return partitionsOf(placement).filter(
    ({ slot }) => slot.mount === '/' || (slot.role === 'system' && slot.mount === undefined),
  );
}

const noRoot = rule('system/no-root', 'stop', (placement) => {
  const { layout } = placement;
  const { use, root } = layout.machine ?? {};
  const parts = partitionsOf(placement).filter(({ slot }) => OF_A_SYSTEM.includes(slot.mount ?? ''));
  const isNamed = use === 'desktop' || use === 'server' || parts.length > 0;
  if (!isNamed || root === 'elsewhere' || rootsOf(placement).length > 0) return [];
  const candidate = partitionsOf(placement).find(({ slot }) => slot.role === 'system');
  const what =
    parts.length > 0 ? `${parts.map(({ slot }) => slot.mount).join(', ')} of a system` : `a ${use ?? 'system'}`;
  const add = addingSlot(
    placement,
    'Add a system partition',
    { id: newSlotId(layout), kind: 'partition', name: 'System', role: 'system', size: 'rest', mount: '/' },
    layout.slots.length,
  );
  return [
    {
      place: { kind: 'medium' },
      sentence: `The layout names ${what}, and none of its partitions (${partitionsOf(placement).length}) is mounted at /.`,
      why: 'A system without its root does not start.',
      remedies: [
        ...(candidate ? [changing(`Mount ${candidate.slot.name} at /`, candidate.slot.id, { mount: '/' })] : add),
        { label: 'It is on another disk', edit: machineEdit(placement.layout, { root: 'elsewhere' }) },
      ],
    },
  ];
});

const layerMounted = rule('system/mount-point-of-a-layer', 'risk', (placement) =>
  entriesOf(placement)
    .filter(({ slot, entry }) => slot.mount !== undefined && promiseOf(entry.type) === 'layered')
    .map(({ slot, entry }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} is to be mounted at ${slot.mount}, and its type ${typeName(entry.type)} says that another layer is inside.`,
      why: 'What is mounted is the volume in that layer, under a name of its own; the partition itself cannot be.',
      remedies: [
        changing(`Leave ${slot.name} without a mount point`, slot.id, { mount: undefined }),
        changing('Let role and content decide the type', slot.id, { type: undefined }),
      ],
    })),
);

const smallRoot = rule('system/small-root', 'note', (placement) => {
  const { layout, sectorSize } = placement;
  if (layout.machine?.use !== 'desktop') return [];
  return partitionsOf(placement)
    .filter(({ slot, sectors }) => slot.mount === '/' && sectors * sectorSize < 8 * GIB)
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, sectors }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} has ${inBoth(sectors * sectorSize)} for the root of a desktop system.`,
      why: 'With its programs and their updates a desktop fills 8 GiB soon.',
      remedies: sized(placement, one, 16 * GIB),
    }));
});

const noHome = rule('system/no-home', 'note', (placement) => {
  const { layout, medium } = placement;
  const isDesktop = layout.machine?.use === 'desktop' && !isPlainFlash(medium.kind);
  const root = partitionsOf(placement).find(({ slot }) => slot.mount === '/');
  if (!isDesktop || !root || partitionsOf(placement).some(({ slot }) => slot.mount === '/home')) return [];
  const index = layout.slots.findIndex((slot) => slot.id === root.slot.id) + 1;
  return [
    {
      place: atSlot(root.slot.id),
      sentence: `People’s files will lie in ${root.slot.name} (${inBoth(root.sectors * placement.sectorSize)}): no partition is mounted at /home.`,
      why: 'With a partition of its own, /home outlives the next installation.',
      remedies: [
        ...addingSlot(
          placement,
          'Add one that shares the rest',
          { id: newSlotId(layout), kind: 'partition', name: 'Home', role: 'data', size: 'rest', mount: '/home' },
          index,
        ),
      ],
    },
  ];
});

export const SYSTEM_RULES: readonly Rule[] = [
  mountedTwice,
  unequalTwins,
  smallBoot,
  noRoot,
  layerMounted,
  smallRoot,
  noHome,
];
