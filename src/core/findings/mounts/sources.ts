/** Rules about the first field: names that nobody has, that another has, that may change. */
import { distance } from 'fastest-levenshtein';
import type { NamedBy } from '../../layout/vocabulary';
import { escapedField, sourceText } from '../../naming/mount-table';
import { type Nameable, nameBy } from '../../naming/nameable';
import { type Case, type Checked, type CheckedEntry, tableRule, type TextEdit } from './finding';
import { replacing } from './form';
import { IDS, Names } from '../../naming/named';

/** A name that differs in so many characters was mistyped. */
const NEAR = 2;
/** More unknown names than this are not compared with all others. */
const COMPARED = 100;

/** A partition as people call it. */
const called = ({ placed, medium }: Nameable, { media }: Checked) =>
  media.length > 1 ? `${placed.slot.name} of ${medium.name}` : placed.slot.name;

/** The remedies that name a partition as the layouts would. */
function properly(entry: CheckedEntry, one: Nameable, { wanted }: Checked): TextEdit[] {
  const line = wanted.find(({ of }) => of === one);
  const by = IDS.find((kind) => nameBy(one, kind) !== undefined);
  const text = line?.source.text ?? (by && sourceText(by, nameBy(one, by)!));
  return text === undefined ? [] : [replacing(`Write ${text}`, entry.fields[0]!, text)];
}

/** The partition that the layouts mount where this line mounts something. */
const meantBy = ({ point }: CheckedEntry, { places }: Checked) => (point === undefined ? undefined : places.get(point));

const devices = tableRule('table/device-name', 'risk', (checked) =>
  checked.entries
    .filter(({ source }) => source.by === 'device name')
    .map((entry) => {
      const meant = meantBy(entry, checked);
      return {
        entry,
        at: entry.fields[0],
        sentence: `${entry.source.name} is a name that the kernel gives.`,
        why: 'It may give the name to another disk at the next start.',
        remedies: meant ? properly(entry, meant, checked) : [],
      };
    }),
);

/** What ids look like. */
const FORMS = [
  // Of 32 digits, of FAT and exFAT, of NTFS, of a partition of an MBR, of ISO 9660, of LVM.
  /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i,
  /^[0-9a-f]{4}-[0-9a-f]{4}$/i,
  /^[0-9a-f]{16}$/i,
  /^[0-9a-f]{8}-[0-9a-f]{2,}$/i,
  /^\d{4}(-\d\d){6}$/,
  /^[0-9a-z]{6}(-[0-9a-z]{4}){5}-[0-9a-z]{6}$/i,
];

const looksLikeId = (name: string) => FORMS.some((form) => form.test(name));

const KIND_WORDS: Readonly<Record<NamedBy, string>> = {
  UUID: 'the id of a file system',
  PARTUUID: 'the id of a partition',
  LABEL: 'the label of a file system',
  PARTLABEL: 'the name of a partition',
  'device name': 'a device',
};

type Unknown = Case & { readonly rule: string };

/** What is wrong with a name that no partition has. */
function unknown(entry: CheckedEntry, names: Names, checked: Checked, isCompared: boolean): Unknown {
  const { source, fields } = entry;
  const at = fields[0];
  const by = source.by!;
  const [other] = names.otherwise(source);
  if (other) {
    const right = sourceText(other.by, other.name);
    return {
      rule: 'table/wrong-kind-of-id',
      entry,
      at,
      sentence: `${by}= names ${KIND_WORDS[by]}, and ${source.name} is ${KIND_WORDS[other.by].replace(/^(the \w+|a device).*/, '$1')} of ${called(other.of, checked)}${other.by.startsWith('PART') ? '’s partition' : '’s file system'}.`,
      why: 'It is looked for among other names, and not found there.',
      remedies: [replacing(`Write ${right}`, at!, right)],
    };
  }
  const [cased] = names.inOtherCase(source);
  if (cased)
    return {
      rule: 'table/id-case',
      entry,
      at,
      sentence: `${called(cased.of, checked)} has ${cased.name}, not ${source.name}.`,
      why: 'Names are compared with their case.',
      remedies: [replacing(`Write ${by}=${cased.name}`, at!, sourceText(by, cased.name))],
    };
  const meant = meantBy(entry, checked);
  const near = isCompared ? nearest(source.name, by, checked) : undefined;
  const own = meant && nameBy(meant, by);
  const later = meant && own === undefined && by === 'UUID' && meant.mounted?.known === 'later';
  return {
    rule: 'table/unknown-id',
    severity: near || meant ? 'stop' : 'risk',
    entry,
    at,
    sentence: near
      ? `No partition has ${by} ${source.name}; ${called(near, checked)} has ${nameBy(near, by)}.`
      : `No partition of ${checked.media.map(({ name }) => name).join(' or ')} has ${by} ${source.name}.`,
    why: later
      ? `The system of ${called(meant, checked)} makes its file system later: its id is not known yet.`
      : 'Where no other disk of the machine has it, the line mounts nothing, and the start waits for it.',
    remedies: [
      ...(near ? properly(entry, near, checked) : []),
      ...(meant && meant !== near ? properly(entry, meant, checked) : []),
    ],
  };
}

function nearest(name: string, by: NamedBy, { nameables }: Checked): Nameable | undefined {
  if (name.length < 2 * NEAR + 4) return undefined;
  return nameables.find((one) => {
    const own = nameBy(one, by);
    return own !== undefined && Math.abs(own.length - name.length) <= NEAR && distance(own, name) <= NEAR;
  });
}

/** Every name that no partition of the layouts has, by the rule that says so. */
function unknowns(checked: Checked, rule: string): Case[] {
  const found = UNKNOWNS.get(checked) ?? allUnknown(checked);
  UNKNOWNS.set(checked, found);
  return found.filter((one) => one.rule === rule).map(({ rule: _, ...one }) => one);
}

const UNKNOWNS = new WeakMap<Checked, readonly Unknown[]>();

function allUnknown(checked: Checked): Unknown[] {
  const names = new Names(checked.nameables);
  return checked.entries
    .filter(({ source, names: found }) => source.by !== undefined && source.by !== 'device name' && found.length === 0)
    .map((entry, i) => unknown(entry, names, checked, i < COMPARED));
}

const wrongKind = tableRule('table/wrong-kind-of-id', 'stop', (checked) => unknowns(checked, 'table/wrong-kind-of-id'));
const wrongCase = tableRule('table/id-case', 'stop', (checked) => unknowns(checked, 'table/id-case'));
const unknownId = tableRule('table/unknown-id', 'stop', (checked) => unknowns(checked, 'table/unknown-id'));

const malformed = tableRule('table/no-id', 'risk', ({ entries }) =>
  entries
    .filter(
      ({ source: { by, name }, names }) =>
        (by === 'UUID' || by === 'PARTUUID') && names.length === 0 && !looksLikeId(name),
    )
    .map((entry) => ({
      entry,
      at: entry.fields[0],
      sentence: `“${entry.source.name}” has the form of no id: ${entry.source.name.length} characters.`,
      why: 'An id has 32 hexadecimal digits in five groups; of FAT 4 and 4, of NTFS 16, of a partition of an MBR 8 and 2.',
    })),
);

const ambiguous = tableRule('table/id-twice', 'risk', (checked) =>
  checked.entries
    .filter(({ names }) => names.length > 1)
    .map((entry) => ({
      entry,
      at: entry.fields[0],
      sentence: `${entry.names.length} partitions have ${entry.source.by} ${entry.source.name}: ${entry.names.map((one) => called(one, checked)).join(' and ')}.`,
      why: 'Which one is found depends on the order in which disks come up.',
    })),
);

const wrongSlot = tableRule('table/wrong-slot', 'stop', (checked) =>
  checked.entries.flatMap((entry): Case[] => {
    const { point, names } = entry;
    const [named] = names;
    if (names.length !== 1 || !named || point === undefined || !point.startsWith('/')) return [];
    const own = named.placed.slot.mount;
    if (own === point) return [];
    const meant = meantBy(entry, checked);
    // A partition that the layouts mount nowhere can be mounted anywhere else.
    if (own === undefined && !meant) return [];
    return [
      {
        entry,
        at: entry.fields[0],
        severity: meant ? 'stop' : 'risk',
        sentence: `The line mounts ${called(named, checked)} at ${point}; the layout mounts ${meant ? `${called(meant, checked)} there` : `it at ${own}`}.`,
        why: meant ? 'An id in the wrong slot: the other file system is mounted.' : 'Table and layout disagree.',
        remedies: meant
          ? properly(entry, meant, checked)
          : [replacing(`Write ${own}`, entry.fields[1]!, escapedField(own!))],
      },
    ];
  }),
);

const tagCase = tableRule('table/tag', 'stop', ({ entries }) =>
  entries.flatMap((entry): Case[] => {
    const [first] = entry.fields;
    const tag = /^(part)?(uuid|label)\s*[=:]/i.exec(first?.text ?? '')?.[0];
    if (tag === undefined || !first || entry.source.by !== undefined) return [];
    const right = `${tag.slice(0, -1).toUpperCase()}=`;
    return [
      {
        entry,
        at: { from: first.from, to: first.from + tag.length },
        sentence: `“${tag}” is not ${right}`,
        why: 'Written otherwise it is taken for the path of a device.',
        remedies: [replacing(`Write ${right}`, { from: first.from, to: first.from + tag.length }, right)],
      },
    ];
  }),
);

const busybox = tableRule('table/busybox', 'risk', (checked) =>
  checked.mounter.tool !== 'busybox'
    ? []
    : checked.entries
        .filter(({ source: { by } }) => by === 'PARTUUID' || by === 'PARTLABEL')
        .map((entry) => {
          const [named] = entry.names;
          const by = (['UUID', 'LABEL'] as const).find((kind) => named && nameBy(named, kind) !== undefined);
          const text = by && sourceText(by, nameBy(named!, by)!);
          return {
            entry,
            at: entry.fields[0],
            sentence: `${entry.source.by}= is not known to the mount of BusyBox, which reads this table.`,
            why: 'It knows UUID= and LABEL= alone.',
            remedies: text === undefined ? [] : [replacing(`Write ${text}`, entry.fields[0]!, text)],
          };
        }),
);

export const SOURCE_RULES = [
  devices,
  tagCase,
  malformed,
  wrongKind,
  wrongCase,
  unknownId,
  ambiguous,
  wrongSlot,
  busybox,
];
