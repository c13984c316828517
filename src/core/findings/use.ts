/** Findings about the use that the layout names: a root, swap for hibernation, what a desktop wants. */
import { newSlotId, machineEdit } from '../layout/edits';
import { memoryOf } from '../layout/medium-spec';
import { swapAdvice } from '../layout/swap';
import { isPlainFlash } from '../medium/medium';
import { exactText, inBoth } from '../quantity/units';
import { promiseOf, typeName } from '../tables/types';
import { addingSlot, atSlot, changing, entriesOf, partitionsOf, type Rule, sized } from './finding';
import type { Placement } from '../placement/placement';

const GIB = 2 ** 30;

/** Mount points that only a system needs: who has one has a root somewhere. */
const OF_A_SYSTEM = ['/boot', '/boot/efi', '/efi', '/usr', '/var', '/home'];

/** Partitions that a system may start in: mounted at the root, or systems whose mount point is not said. */
function rootsOf(placement: Placement) {
  return partitionsOf(placement).filter(
    ({ slot }) => slot.mount === '/' || (slot.role === 'system' && slot.mount === undefined),
  );
}

const noRoot: Rule = (placement) => {
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
      rule: 'system/no-root',
      severity: 'stop',
      place: { kind: 'medium' },
      sentence: `The layout names ${what}, and none of its partitions (${partitionsOf(placement).length}) is mounted at /.`,
      why: 'A system without its root does not start.',
      remedies: [
        ...(candidate ? [changing(`Mount ${candidate.slot.name} at /`, candidate.slot.id, { mount: '/' })] : add),
        { label: 'It is on another disk', edit: machineEdit(placement.layout, { root: 'elsewhere' }) },
      ],
    },
  ];
};

function swapOf(placement: Placement) {
  return partitionsOf(placement).filter(({ slot }) => slot.role === 'swap');
}

const swaplessSleep: Rule = (placement) => {
  const { layout, sectorSize } = placement;
  if (!layout.machine?.hibernates || swapOf(placement).length > 0) return [];
  const memory = memoryOf(layout);
  const size = memory === undefined ? '8 GiB' : exactText(swapAdvice(memory, true), sectorSize);
  return [
    {
      rule: 'system/hibernation-without-swap',
      severity: 'risk',
      place: { kind: 'medium' },
      sentence: `The machine is to hibernate${memory === undefined ? '' : ` with ${inBoth(memory)} of memory`}, and none of its partitions (${partitionsOf(placement).length}) is swap.`,
      why: 'The memory is written to swap before the machine is switched off.',
      remedies: [
        ...addingSlot(
          placement,
          `Add ${size} of swap`,
          { id: newSlotId(layout), kind: 'partition', name: 'Swap', role: 'swap', size },
          layout.slots.length,
        ),
        { label: 'It need not hibernate', edit: machineEdit(placement.layout, { hibernates: undefined }) },
      ],
    },
  ];
};

const smallSleep: Rule = (placement) => {
  const { layout, sectorSize } = placement;
  const memory = memoryOf(layout);
  const swaps = swapOf(placement);
  const largest = [...swaps].sort((a, b) => b.sectors - a.sectors)[0];
  if (!layout.machine?.hibernates || memory === undefined || !largest) return [];
  const bytes = largest.sectors * sectorSize;
  if (bytes >= memory) return [];
  return [
    {
      rule: 'system/swap-under-the-memory',
      severity: 'risk',
      place: atSlot(largest.slot.id),
      sentence: `${largest.slot.name} has ${inBoth(bytes)}, and the machine is to hibernate with ${inBoth(memory)} of memory.`,
      why: 'A full memory does not fit into it, and hibernating fails when it is needed most.',
      remedies: [
        ...sized(placement, largest, swapAdvice(memory, true)),
        { label: 'It need not hibernate', edit: machineEdit(placement.layout, { hibernates: undefined }) },
      ],
    },
  ];
};

const layerMounted: Rule = (placement) =>
  entriesOf(placement)
    .filter(({ slot, entry }) => slot.mount !== undefined && promiseOf(entry.type) === 'layered')
    .map(({ slot, entry }) => ({
      rule: 'system/mount-point-of-a-layer',
      severity: 'risk',
      place: atSlot(slot.id),
      sentence: `${slot.name} is to be mounted at ${slot.mount}, and its type ${typeName(entry.type)} says that another layer is inside.`,
      why: 'What is mounted is the volume in that layer, under a name of its own; the partition itself cannot be.',
      remedies: [
        changing(`Leave ${slot.name} without a mount point`, slot.id, { mount: undefined }),
        changing('Let role and content decide the type', slot.id, { type: undefined }),
      ],
    }));

const smallRoot: Rule = (placement) => {
  const { layout, sectorSize } = placement;
  if (layout.machine?.use !== 'desktop') return [];
  return partitionsOf(placement)
    .filter(({ slot, sectors }) => slot.mount === '/' && sectors * sectorSize < 8 * GIB)
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, sectors }) => ({
      rule: 'system/small-root',
      severity: 'note',
      place: atSlot(slot.id),
      sentence: `${slot.name} has ${inBoth(sectors * sectorSize)} for the root of a desktop system.`,
      why: 'With its programs and their updates a desktop fills 8 GiB soon.',
      remedies: sized(placement, one, 16 * GIB),
    }));
};

const noHome: Rule = (placement) => {
  const { layout, medium } = placement;
  const isDesktop = layout.machine?.use === 'desktop' && !isPlainFlash(medium.kind);
  const root = partitionsOf(placement).find(({ slot }) => slot.mount === '/');
  if (!isDesktop || !root || partitionsOf(placement).some(({ slot }) => slot.mount === '/home')) return [];
  const index = layout.slots.findIndex((slot) => slot.id === root.slot.id) + 1;
  return [
    {
      rule: 'system/no-home',
      severity: 'note',
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
};

export const USE_RULES: readonly Rule[] = [noRoot, swaplessSleep, smallSleep, layerMounted, smallRoot, noHome];
