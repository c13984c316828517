/** Findings about what FAT volumes are called: labels and volume ids. */
import { LABEL_LENGTH, storedLabel } from '../filesystems/label';
import { derivedVolumeId } from '../layout/edits';
import { atSlot, fatPartitions, type Finding, once, refitting, type Rule } from './finding';

/** FAT partitions with their labels as they will be stored. */
const labelled = once((placement) =>
  fatPartitions(placement).map(({ slot }) => ({ slot, stored: storedLabel(slot.fileSystem.label ?? '') })),
);

const forbiddenLabel: Rule = (placement) =>
  labelled(placement).flatMap(({ slot, stored }): Finding[] => {
    if (stored.forbidden.length === 0) return [];
    return [
      {
        rule: 'fat/label-forbidden-characters',
        severity: 'stop',
        place: atSlot(slot.id),
        sentence: `The label “${slot.fileSystem.label}” has ${stored.forbidden.map((c) => `“${c}”`).join(', ')}, which a FAT label cannot hold.`,
        why: 'Readers refuse or misread such a label.',
        remedies: [refitting(`Write it as ${stored.text}`, slot, { label: stored.text })],
      },
    ];
  });

const labelChanges: Rule = (placement) =>
  labelled(placement).flatMap(({ slot, stored }): Finding[] => {
    const label = slot.fileSystem.label ?? '';
    if (stored.text === label || stored.forbidden.length > 0) return [];
    const cut = stored.cut ? `, without “${stored.cut}”` : '';
    return [
      {
        rule: 'fat/label-stored-as',
        severity: 'note',
        place: atSlot(slot.id),
        sentence:
          stored.text === ''
            ? `The label “${label}” stands for none: the volume will have no label.`
            : `The label “${label}” will be stored as ${stored.text}${cut}.`,
        why: `FAT labels have ${LABEL_LENGTH} characters, in upper case; blanks and NO NAME are no label.`,
        remedies: [
          stored.text === ''
            ? refitting('Leave it without a label', slot, { label: undefined })
            : refitting(`Write it as ${stored.text}`, slot, { label: stored.text }),
        ],
      },
    ];
  });

/** Volumes whose key was seen before, with the first that had it. Volumes without a key are left out. */
function repeated<One>(volumes: readonly One[], keyOf: (one: One) => string) {
  const seen = new Map<string, One>();
  return volumes.flatMap((one) => {
    const key = keyOf(one);
    const first = seen.get(key);
    if (key !== '' && !first) seen.set(key, one);
    return first ? [{ one, first, key }] : [];
  });
}

const duplicateVolumeId: Rule = (placement) =>
  repeated(fatPartitions(placement), ({ slot }) => slot.fileSystem.volumeId).map(({ one: { slot }, first, key }) => ({
    rule: 'fat/duplicate-volume-id',
    severity: 'risk',
    place: atSlot(slot.id),
    sentence: `${slot.name} and ${first.slot.name} both have the volume id ${key}.`,
    why: 'A mount table that names the id finds either of them.',
    remedies: [
      refitting(`Give ${slot.name} an id of its own`, slot, { volumeId: derivedVolumeId(placement.layout, slot.id) }),
    ],
  }));

const zeroVolumeId: Rule = (placement) =>
  fatPartitions(placement)
    .filter(({ slot }) => slot.fileSystem.volumeId === '0000-0000')
    .map(({ slot }) => ({
      rule: 'fat/zero-volume-id',
      severity: 'note',
      place: atSlot(slot.id),
      sentence: `The volume id of ${slot.name} is 0000-0000.`,
      why: 'Systems take it for none, and cannot find the volume by it.',
      remedies: [refitting('Give it an id', slot, { volumeId: derivedVolumeId(placement.layout, slot.id) })],
    }));

/** A label with a number in place of its end. */
function numbered(label: string, taken: readonly string[]): string {
  for (let n = 2; ; n++) {
    const end = String(n);
    const candidate = `${label.slice(0, LABEL_LENGTH - end.length)}${end}`;
    if (!taken.includes(candidate)) return candidate;
  }
}

const duplicateLabel: Rule = (placement) => {
  const volumes = labelled(placement);
  const taken = volumes.map(({ stored }) => stored.text);
  return repeated(volumes, ({ stored }) => stored.text).map(({ one: { slot }, first, key }) => {
    const label = numbered(key, taken);
    return {
      rule: 'fat/duplicate-label',
      severity: 'risk',
      place: atSlot(slot.id),
      sentence: `${slot.name} and ${first.slot.name} both have the label ${key}.`,
      why: 'Whoever looks for the label finds either of them.',
      remedies: [refitting(`Label ${slot.name} ${label}`, slot, { label })],
    };
  });
};

export const FAT_IDENTITY_RULES: readonly Rule[] = [
  forbiddenLabel,
  labelChanges,
  duplicateVolumeId,
  zeroVolumeId,
  duplicateLabel,
];
