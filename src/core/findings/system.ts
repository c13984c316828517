/** Findings about the system that will use the medium. */
import { LEAST_PAGES } from '../filesystems/swap';
import type { PartitionSlot } from '../layout/document';
import { isPlainFlash, KIND_NAMES } from '../medium/medium';
import type { PlacedPartition, Placement } from '../placement/placement';
import { pageSizeOf } from '../layout/swap';
import { alignUp } from '../quantity/integers';
import { exactText, grouped, inBoth, sectorCount } from '../quantity/units';
import { atSlot, changing, type Finding, partitionsOf, type Rule, sized, sizedAny } from './finding';

const mountedTwice: Rule = (placement) => {
  const seen = new Map<string, string>();
  return partitionsOf(placement).flatMap(({ slot }): Finding[] => {
    if (slot.mount === undefined) return [];
    const first = seen.get(slot.mount);
    if (first === undefined) {
      seen.set(slot.mount, slot.name);
      return [];
    }
    return [
      {
        rule: 'system/mount-point-twice',
        severity: 'stop',
        place: atSlot(slot.id),
        sentence: `${slot.name} and ${first} are both mounted at ${slot.mount}.`,
        why: 'The second one hides the first.',
        remedies: [changing(`Leave ${slot.name} without a mount point`, slot.id, { mount: undefined })],
      },
    ];
  });
};

const swapOnFlash: Rule = (placement) => {
  const { kind } = placement.medium;
  if (!isPlainFlash(kind) && kind !== 'stick') return [];
  return partitionsOf(placement)
    .filter(({ slot }) => slot.role === 'swap')
    .map(({ slot }) => ({
      rule: 'system/swap-on-flash',
      severity: 'risk',
      place: atSlot(slot.id),
      sentence: `${slot.name} is swap on ${kind === 'on-board' ? KIND_NAMES[kind] : `a ${KIND_NAMES[kind]}`}.`,
      why: 'Swapping wears simple flash out and is slow on it; compressed memory does better.',
      remedies: [{ label: `Delete ${slot.name}`, edit: { do: 'remove slot', id: slot.id } }],
    }));
};

/** `System A` and `System B`: slots that differ in their last letter only. */
function twins(placement: Placement): [PlacedPartition, PlacedPartition][] {
  const systems = partitionsOf(placement).filter(({ slot }) => slot.role === 'system');
  return systems.flatMap((one): [PlacedPartition, PlacedPartition][] => {
    if (!/[ _-]A$/.test(one.slot.name)) return [];
    const other = systems.find(({ slot }) => slot.name === `${one.slot.name.slice(0, -1)}B`);
    return other ? [[one, other]] : [];
  });
}

const unequalTwins: Rule = (placement) =>
  twins(placement)
    .filter(([a, b]) => a.sectors !== b.sectors && a.sectors > 0)
    .map(([a, b]) => ({
      rule: 'system/a-and-b-differ',
      severity: 'risk',
      place: atSlot(b.slot.id),
      sentence: `${a.slot.name} has ${sectorCount(a.sectors)} and ${b.slot.name} ${grouped(b.sectors)}: ${inBoth(Math.abs(a.sectors - b.sectors) * placement.sectorSize)} apart.`,
      why: 'An image made for the larger one does not fit the other.',
      remedies: [
        changing(`Make ${b.slot.name} as large as ${a.slot.name}`, b.slot.id, { size: sizeText(placement, a) }),
      ],
    }));

function sizeText(placement: Placement, { slot, sectors, rule }: PlacedPartition): string {
  return rule?.kind === 'exact' ? slot.size : exactText(sectors * placement.sectorSize, placement.sectorSize);
}

const MIB = 1024 * 1024;

const smallBoot: Rule = (placement) =>
  partitionsOf(placement)
    .filter(
      ({ slot, sectors }) =>
        slot.mount === '/boot' && slot.role !== 'esp' && sectors * placement.sectorSize < 300 * MIB,
    )
    .filter(() => !placement.layout.boots.includes('board'))
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, sectors }) => ({
      rule: 'system/small-boot',
      severity: 'note',
      place: atSlot(slot.id),
      sentence: `${slot.name} has ${inBoth(sectors * placement.sectorSize)} for kernels and their RAM disks.`,
      why: 'Updates keep two or three of them; a /boot of its own wants 300 MiB and more.',
      remedies: sized(placement, one, 512 * MIB),
    }));

/** Bytes of a page of swap: as its header will say, or as the machine has, or usual ones. */
function pageOf({ content }: PartitionSlot, { layout }: Placement): number {
  return content?.kind === 'swap' ? pageSizeOf(content, layout) : (layout.machine?.pageSize ?? 4096);
}

const tinySwap: Rule = (placement) =>
  partitionsOf(placement)
    .filter(
      ({ slot, sectors }) =>
        (slot.role === 'swap' || slot.content?.kind === 'swap') &&
        sectors * placement.sectorSize < LEAST_PAGES * pageOf(slot, placement),
    )
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, sectors }) => ({
      rule: 'system/swap-under-ten-pages',
      severity: 'stop',
      place: atSlot(slot.id),
      sentence: `${slot.name} has ${inBoth(sectors * placement.sectorSize)}; swap needs at least ${LEAST_PAGES} pages of ${grouped(pageOf(slot, placement))} bytes.`,
      why: 'A kernel refuses to switch it on.',
      remedies: sizedAny(placement, one, [
        1024 * MIB,
        64 * MIB,
        alignUp(LEAST_PAGES * pageOf(slot, placement), placement.grain.bytes),
      ]),
    }));

export const SYSTEM_RULES: readonly Rule[] = [mountedTwice, swapOnFlash, unequalTwins, smallBoot, tinySwap];
