/** Findings about swap: made here, left to its system, or missing. */
import { exactText, grouped, inBinary, inBoth, MIB } from '../../quantity/units';
import { LEAST_PAGES, SWAP_LABEL_LIMIT, swapLabelBytes } from '../../filesystems/swap/format';
import { pageSizeOf } from '../../filesystems/swap/kind';
import type { SwapContent } from '../../filesystems/swap/shape';
import { machineEdit, newSlotId } from '../../layout/edits';
import { swapAdvice } from '../../layout/swap';
import { isPlainFlash, KIND_NAMES } from '../../medium/medium';
import type { PlacedPartition, Placement } from '../../placement/placement';
import { siteIn } from '../../placement/site';
import { alignUp } from '../../quantity/integers';
import {
  once,
  addingSlot,
  atSlot,
  changing,
  type Occurrence,
  partitionsOf,
  type Rule,
  rule,
  sized,
  sizedAny,
} from './finding';

function swapOf(placement: Placement) {
  return partitionsOf(placement).filter(({ slot }) => slot.role === 'swap');
}

const swapOnFlash = rule('swap/on-flash', 'risk', (placement) => {
  const { kind } = placement.medium;
  if (!isPlainFlash(kind) && kind !== 'stick') return [];
  return partitionsOf(placement)
    .filter(({ slot }) => slot.role === 'swap')
    .map(({ slot }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} will swap to ${kind === 'on-board' ? KIND_NAMES[kind] : `a ${KIND_NAMES[kind]}`}.`,
      why: 'Swapping wears simple flash out and is slow on it; compressed memory does better.',
      remedies: [{ label: `Delete ${slot.name}`, edit: { do: 'remove slot', id: slot.id } }],
    }));
});

const swaplessSleep = rule('swap/missing-for-hibernation', 'risk', (placement) => {
  const { layout, sectorSize } = placement;
  if (!layout.machine?.hibernates || swapOf(placement).length > 0) return [];
  const memory = placement.figures.memory;
  const size = memory === undefined ? '8 GiB' : exactText(swapAdvice(memory, true), sectorSize);
  return [
    {
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
});

const smallSleep = rule('swap/under-the-memory', 'risk', (placement) => {
  const { layout, sectorSize } = placement;
  const memory = placement.figures.memory;
  const swaps = swapOf(placement);
  const largest = [...swaps].sort((a, b) => b.sectors - a.sectors)[0];
  if (!layout.machine?.hibernates || memory === undefined || !largest) return [];
  const bytes = largest.sectors * sectorSize;
  if (bytes >= memory) return [];
  return [
    {
      place: atSlot(largest.slot.id),
      sentence: `${largest.slot.name} has ${inBoth(bytes)}, and the machine is to hibernate with ${inBoth(memory)} of memory.`,
      why: 'A full memory does not fit into it, and hibernating fails when it is needed most.',
      remedies: [
        ...sized(placement, largest, swapAdvice(memory, true)),
        { label: 'It need not hibernate', edit: machineEdit(placement.layout, { hibernates: undefined }) },
      ],
    },
  ];
});

/** Bytes of a page of swap: as its header will say, or as the machine has, or usual ones. */
function pageOf(one: PlacedPartition, placement: Placement): number {
  const { content } = one.slot;
  const site = siteIn(one, placement);
  return content?.kind === 'swap' ? pageSizeOf(content, site) : site.pageSize;
}

const tinySwap = rule('swap/under-ten-pages', 'stop', (placement) =>
  partitionsOf(placement)
    .filter(
      (one) =>
        (one.slot.role === 'swap' || one.slot.content?.kind === 'swap') &&
        one.sectors * placement.sectorSize < LEAST_PAGES * pageOf(one, placement),
    )
    .map((one) => ({ one, ...one }))
    .map(({ one, slot, sectors }) => ({
      place: atSlot(slot.id),
      sentence: `${slot.name} has ${inBoth(sectors * placement.sectorSize)}; swap needs at least ${LEAST_PAGES} pages of ${grouped(pageOf(one, placement))} bytes.`,
      why: 'A kernel refuses to switch it on.',
      remedies: sizedAny(placement, one, [
        1024 * MIB,
        64 * MIB,
        alignUp(LEAST_PAGES * pageOf(one, placement), placement.grain.bytes),
      ]),
    })),
);

const swaps = once((placement): { readonly one: PlacedPartition; readonly content: SwapContent }[] =>
  partitionsOf(placement).flatMap((one) => {
    const { content } = one.slot;
    return content?.kind === 'swap' ? [{ one, content }] : [];
  }),
);

const swapPage = rule('swap/of-other-pages', 'stop', (placement) =>
  swaps(placement).flatMap(({ one, content }): Occurrence[] => {
    const target = placement.layout.machine?.pageSize;
    const own = pageSizeOf(content, siteIn(one, placement));
    if (target === undefined || own === target) return [];
    return [
      {
        place: atSlot(one.slot.id),
        sentence: `${one.slot.name} is made for pages of ${inBinary(own)}; the kernel of the machine has pages of ${inBinary(target)}.`,
        why: 'The kernel looks for the signature at the end of its first page, and finds none.',
        remedies: [
          changing(`Make it for pages of ${inBinary(target)}`, one.slot.id, {
            content: { ...content, pageSize: target },
          }),
          {
            label: `The machine has pages of ${inBinary(own)}`,
            edit: machineEdit(placement.layout, { pageSize: own }),
          },
        ],
      },
    ];
  }),
);

/** A text cut to so many bytes, no character in half. */
function cutTo(text: string, bytes: number): string {
  let cut = '';
  for (const character of text) {
    if (swapLabelBytes(cut + character).length > bytes) break;
    cut += character;
  }
  return cut;
}

const swapLabel = rule('swap/label-too-long', 'stop', (placement) =>
  swaps(placement)
    .filter(({ content }) => swapLabelBytes(content.label ?? '').length > SWAP_LABEL_LIMIT)
    .map(({ one, content }) => ({
      place: atSlot(one.slot.id),
      sentence: `The label “${content.label}” has ${swapLabelBytes(content.label!).length} bytes; a swap label has at most ${SWAP_LABEL_LIMIT}.`,
      why: 'There is no room for more in its header.',
      remedies: [
        changing('Cut it', one.slot.id, { content: { ...content, label: cutTo(content.label!, SWAP_LABEL_LIMIT) } }),
      ],
    })),
);

export const SWAP_RULES: readonly Rule[] = [swapOnFlash, swaplessSleep, smallSleep, tinySwap, swapPage, swapLabel];
