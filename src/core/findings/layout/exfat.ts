/** Findings about exFAT volumes that are made here. */
import { EXFAT_LABEL_LIMIT } from '../../filesystems/exfat/fill';
import type { ExfatContent } from '../../filesystems/exfat/shape';
import { madeAs } from '../../filesystems/kinds';
import type { PlacedPartition, Placement } from '../../placement/placement';
import { grouped, inBinary, inBoth } from '../../quantity/units';
import { atSlot, changing, enlarged, type Occurrence, partitionsOf, type Rule, rule } from './finding';

function exfats(placement: Placement): { readonly one: PlacedPartition; readonly content: ExfatContent }[] {
  return partitionsOf(placement).flatMap((one) => {
    const { content } = one.slot;
    return content?.kind === 'exfat' ? [{ one, content }] : [];
  });
}

const noExfat = rule('exfat/cannot-be-made', 'stop', (placement) =>
  exfats(placement).flatMap(({ one, content }): Occurrence[] => {
    const exfat = madeAs(one, 'exfat');
    if (!exfat || exfat.ok) return [];
    const { reason, clusterBytes, clusters, least } = exfat.error;
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
        place: atSlot(one.slot.id),
        sentence: sentences[reason],
        why: 'The format has no such volume.',
        remedies:
          reason === 'too small' && free.length === 0 ? enlarged(placement, one, Math.max(least, 2 ** 21)) : free,
      },
    ];
  }),
);

/** The first half of a character whose second half was cut off. */
const HALF_AT_END = /[\ud800-\udbff]$/;

const exfatLabel = rule('exfat/label-too-long', 'stop', (placement) =>
  exfats(placement)
    .filter(({ content }) => (content.label ?? '').length > EXFAT_LABEL_LIMIT)
    .map(({ one, content }) => ({
      place: atSlot(one.slot.id),
      sentence: `The label “${content.label}” has ${content.label!.length} characters; an exFAT label has at most ${EXFAT_LABEL_LIMIT}.`,
      why: 'There is no room for more in its entry.',
      remedies: [
        changing('Cut it', one.slot.id, {
          content: { ...content, label: content.label!.slice(0, EXFAT_LABEL_LIMIT).replace(HALF_AT_END, '').trimEnd() },
        }),
      ],
    })),
);

const exfatToStart = rule('exfat/nothing-starts-from-it', 'risk', (placement) =>
  exfats(placement)
    .filter(({ one }) => one.slot.role === 'boot' || one.slot.mount === '/boot')
    .map(({ one }) => ({
      place: atSlot(one.slot.id),
      sentence: `${one.slot.name} (${inBoth(one.span.end - one.span.start)}) is for starting, and holds exFAT.`,
      why: 'Neither firmware nor boot ROMs read exFAT.',
      remedies: [changing(`Make ${one.slot.name} data`, one.slot.id, { role: 'data', mount: undefined })],
    })),
);

export const EXFAT_RULES: readonly Rule[] = [noExfat, exfatLabel, exfatToStart];
