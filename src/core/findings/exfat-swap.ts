/** Findings about exFAT volumes and swap that are made here. */
import { EXFAT_LABEL_LIMIT } from '../filesystems/exfat/fill';
import { SWAP_LABEL_LIMIT, swapLabelBytes } from '../filesystems/swap';
import type { ExfatContent, SwapContent } from '../layout/document';
import { machineEdit } from '../layout/edits';
import type { PlacedPartition, Placement } from '../placement/placement';
import { pageSizeOf } from '../layout/swap';
import { grouped, inBinary, inBoth } from '../quantity/units';
import { atSlot, changing, enlarged, type Finding, partitionsOf, type Rule } from './finding';

function exfats(placement: Placement): { readonly one: PlacedPartition; readonly content: ExfatContent }[] {
  return partitionsOf(placement).flatMap((one) => {
    const { content } = one.slot;
    return content?.kind === 'exfat' ? [{ one, content }] : [];
  });
}

const noExfat: Rule = (placement) =>
  exfats(placement).flatMap(({ one, content }): Finding[] => {
    if (!one.exfat || one.exfat.ok) return [];
    const { reason, clusterBytes, clusters, least } = one.exfat.error;
    const bySize = { ...content };
    delete bySize.cluster;
    const free =
      content.cluster === undefined
        ? []
        : [changing('Let the size decide the cluster', one.slot.id, { content: bySize })];
    const sentences = {
      'too small': `${one.slot.name} has ${inBoth(one.span.end - one.span.start)}; an exFAT volume with clusters of ${inBinary(clusterBytes)} needs at least ${inBoth(least)}.`,
      'too many clusters': `${one.slot.name} would have ${grouped(clusters)} clusters of ${inBinary(clusterBytes)}; exFAT counts up to ${grouped(2 ** 32 - 11)}.`,
      'cluster size': `Clusters of ${inBinary(clusterBytes)} in ${one.slot.name} are smaller than a sector of ${inBinary(placement.sectorSize)}.`,
    };
    return [
      {
        rule: 'exfat/cannot-be-made',
        severity: 'stop',
        place: atSlot(one.slot.id),
        sentence: sentences[reason],
        why: 'The format has no such volume.',
        remedies:
          reason === 'too small' && free.length === 0 ? enlarged(placement, one, Math.max(least, 2 ** 21)) : free,
      },
    ];
  });

const exfatLabel: Rule = (placement) =>
  exfats(placement)
    .filter(({ content }) => (content.label ?? '').length > EXFAT_LABEL_LIMIT)
    .map(({ one, content }) => ({
      rule: 'exfat/label-too-long',
      severity: 'stop',
      place: atSlot(one.slot.id),
      sentence: `The label “${content.label}” has ${content.label!.length} characters; an exFAT label has at most ${EXFAT_LABEL_LIMIT}.`,
      why: 'There is no room for more in its entry.',
      remedies: [
        changing('Cut it', one.slot.id, {
          content: { ...content, label: content.label!.slice(0, EXFAT_LABEL_LIMIT).replace(HALF_AT_END, '').trimEnd() },
        }),
      ],
    }));

/** The first half of a character whose second half was cut off. */
const HALF_AT_END = /[\ud800-\udbff]$/;
const HALF = /\p{Cs}/gu;

const halfLabel: Rule = (placement) =>
  [...exfats(placement), ...swaps(placement)]
    .filter(({ content }) => content.label !== undefined && content.label.search(HALF) >= 0)
    .map(({ one, content }) => ({
      rule: 'content/label-with-half-a-character',
      severity: 'stop',
      place: atSlot(one.slot.id),
      sentence: `The label of ${one.slot.name} has half a character at place ${content.label!.search(HALF) + 1}.`,
      why: 'The other half is missing: systems show something else there, and nobody can type it.',
      remedies: [
        changing(`Write it as ${content.label!.replace(HALF, '_')}`, one.slot.id, {
          content: { ...content, label: content.label!.replace(HALF, '_') },
        }),
      ],
    }));

const exfatToStart: Rule = (placement) =>
  exfats(placement)
    .filter(({ one }) => one.slot.role === 'boot' || one.slot.mount === '/boot')
    .map(({ one }) => ({
      rule: 'exfat/nothing-starts-from-it',
      severity: 'risk',
      place: atSlot(one.slot.id),
      sentence: `${one.slot.name} (${inBoth(one.span.end - one.span.start)}) is for starting, and holds exFAT.`,
      why: 'Neither firmware nor boot ROMs read exFAT.',
      remedies: [changing(`Make ${one.slot.name} data`, one.slot.id, { role: 'data', mount: undefined })],
    }));

function swaps(placement: Placement): { readonly one: PlacedPartition; readonly content: SwapContent }[] {
  return partitionsOf(placement).flatMap((one) => {
    const { content } = one.slot;
    return content?.kind === 'swap' ? [{ one, content }] : [];
  });
}

const swapPage: Rule = (placement) =>
  swaps(placement).flatMap(({ one, content }): Finding[] => {
    const target = placement.layout.machine?.pageSize;
    const own = pageSizeOf(content, placement.layout);
    if (target === undefined || own === target) return [];
    return [
      {
        rule: 'system/swap-of-other-pages',
        severity: 'stop',
        place: atSlot(one.slot.id),
        sentence: `${one.slot.name} is swap for pages of ${inBinary(own)}; the kernel of the machine has pages of ${inBinary(target)}.`,
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
  });

/** A text cut to so many bytes, no character in half. */
function cutTo(text: string, bytes: number): string {
  let cut = '';
  for (const character of text) {
    if (swapLabelBytes(cut + character).length > bytes) break;
    cut += character;
  }
  return cut;
}

const swapLabel: Rule = (placement) =>
  swaps(placement)
    .filter(({ content }) => swapLabelBytes(content.label ?? '').length > SWAP_LABEL_LIMIT)
    .map(({ one, content }) => ({
      rule: 'system/swap-label-too-long',
      severity: 'stop',
      place: atSlot(one.slot.id),
      sentence: `The label “${content.label}” has ${swapLabelBytes(content.label!).length} bytes; a swap label has at most ${SWAP_LABEL_LIMIT}.`,
      why: 'There is no room for more in its header.',
      remedies: [
        changing('Cut it', one.slot.id, { content: { ...content, label: cutTo(content.label!, SWAP_LABEL_LIMIT) } }),
      ],
    }));

export const EXFAT_SWAP_RULES: readonly Rule[] = [noExfat, exfatLabel, halfLabel, exfatToStart, swapPage, swapLabel];
