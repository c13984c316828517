/** Rules about types and options: what the kernel refuses, and what says two things at once. */
import { closest, distance } from 'fastest-levenshtein';
import { KNOWN_TYPES, type MountOption, optionsOf, type OptionValue, typesWith } from './mount-options';
import type { Field } from './mount-text';
import { type Case, type CheckedEntry, tableRule, type TextEdit } from './finding';
import { replacing } from './form';

/** An option in its place. */
interface Told {
  readonly text: string;
  readonly name: string;
  readonly value: string | undefined;
  readonly from: number;
  readonly to: number;
}

/** Options of a field; commas within quotes part nothing. */
function toldIn({ text, from }: Field): Told[] {
  const told: Told[] = [];
  const one = /(?:[^,"]|"[^"]*"?)*/y;
  for (let at = 0; at <= text.length;) {
    one.lastIndex = at;
    const word = one.exec(text)![0];
    const equals = word.indexOf('=');
    told.push({
      text: word,
      name: equals < 0 ? word : word.slice(0, equals),
      value: equals < 0 ? undefined : word.slice(equals + 1),
      from: from + at,
      to: from + at + word.length,
    });
    at += word.length + 1;
  }
  return told;
}

const optionsIn = ({ fields }: CheckedEntry): readonly Told[] => (fields[3] ? toldIn(fields[3]) : []);

/** Names of types that people write for those of the kernel. */
const SAID_FOR = new Map(
  Object.entries({
    fat: 'vfat',
    fat12: 'vfat',
    fat16: 'vfat',
    fat32: 'vfat',
    efi: 'vfat',
    esp: 'vfat',
    ext: 'ext4',
    iso: 'iso9660',
    isofs: 'iso9660',
    'linux-swap': 'swap',
    swapfs: 'swap',
    hfs_plus: 'hfsplus',
  }),
);

const letters = (word: string) => [...word].sort().join('');

/** The word that was meant: it differs in a quarter of its letters at most, or has two exchanged. */
const near = (word: string, among: readonly string[]): string | undefined => {
  const turned = among.find(
    (one) => one.length === word.length && distance(word, one) <= 2 && letters(one) === letters(word),
  );
  if (turned !== undefined) return turned;
  const most = Math.max(1, Math.floor(word.length / 4));
  // Words differ in as many letters as they differ in length, at least.
  const alike = among.filter((one) => Math.abs(one.length - word.length) <= most);
  if (alike.length === 0) return undefined;
  const found = closest(word, alike);
  return distance(word, found) <= most ? found : undefined;
};

const unknownType = tableRule('table/unknown-type', 'stop', ({ entries }) =>
  entries
    .filter(({ type, fields }) => type !== undefined && fields.length <= 6 && !type.startsWith('fuse.'))
    .flatMap((entry) => {
      const words = entry.type!.split(',');
      return words.flatMap((word): Case[] => {
        if (KNOWN_TYPES.includes(word.replace(/^no/, '')) || KNOWN_TYPES.includes(word)) return [];
        const right = SAID_FOR.get(word.toLowerCase()) ?? near(word.toLowerCase(), KNOWN_TYPES);
        return [
          {
            entry,
            at: entry.fields[2],
            severity: right ? 'stop' : 'risk',
            sentence: `“${word}” is no file system that a kernel knows${right ? `; ${right} is` : ''}.`,
            why: 'A mount with an unknown type fails.',
            remedies: right && words.length === 1 ? [replacing(`Write ${right}`, entry.fields[2]!, right)] : [],
          },
        ];
      });
    }),
);

/** Types with which a kernel mounts what is of another. */
const ALSO: Readonly<Record<string, readonly string[]>> = {
  ext2: ['ext3', 'ext4'],
  ext3: ['ext4', 'ext2'],
  ntfs3: ['ntfs', 'ntfs-3g', 'fuseblk'],
  vfat: ['msdos'],
};

const wrongType = tableRule('table/wrong-type', 'stop', ({ entries }) =>
  entries.flatMap((entry): Case[] => {
    const { type, names, fields } = entry;
    const [named] = names;
    const own = named?.mounted?.type;
    if (
      names.length !== 1 ||
      entry.isElsewhere ||
      type === undefined ||
      own === undefined ||
      !KNOWN_TYPES.includes(type)
    )
      return [];
    if (type === own || type === 'auto' || type === 'none' || (ALSO[own] ?? []).includes(type)) {
      if (own !== 'vfat' || type !== 'msdos') return [];
      return [
        {
          entry,
          at: fields[2],
          severity: 'risk',
          sentence: `${named!.placed.slot.name} is mounted as msdos.`,
          why: 'Long names are not seen, and those written are cut to eight and three characters.',
          remedies: [replacing('Write vfat', fields[2]!, 'vfat')],
        },
      ];
    }
    const isLater = named!.mounted!.known === 'later';
    return [
      {
        entry,
        at: fields[2],
        severity: isLater ? 'risk' : 'stop',
        sentence: `The line mounts ${named!.placed.slot.name} as ${type}, and ${isLater ? 'its system makes' : 'it holds'} ${own}.`,
        why: 'The kernel looks for that file system, does not find it, and refuses.',
        remedies: [replacing(`Write ${own}`, fields[2]!, own)],
      },
    ];
  }),
);

/** Options of the file systems of an entry; undefined where they are not known. */
function knownTo({ type }: CheckedEntry): ReadonlyMap<string, MountOption> | undefined {
  return type === undefined ? undefined : optionsOf(type);
}

/** Options that every service manager and program may have of its own. */
const isForeign = ({ name }: Told) => /^x-|^X-|^comment$/.test(name);

/** The remedy that takes an option out, with its comma. */
function takingOut(
  { from: start, text }: Field,
  { from, to }: { readonly from: number; readonly to: number },
): TextEdit {
  const isFirst = from === start;
  const word = text.slice(from - start, to - start);
  return replacing(`Take ${word} out`, { from: isFirst ? from : from - 1, to: isFirst ? to + 1 : to }, '');
}

/** What is said of an option that the file system does not know; `others` do. */
function unknownOf(
  entry: CheckedEntry,
  { name, value, from, to }: Told,
  known: ReadonlyMap<string, MountOption>,
  others: readonly string[],
): Case {
  const right = near(name, [...known.keys()]) ?? (known.has(name.toLowerCase()) ? name.toLowerCase() : undefined);
  const meant = right && `; it knows ${right}`;
  const told = others.length > 0 ? `; ${others.slice(0, 3).join(', ')} ${others.length === 1 ? 'does' : 'do'}` : meant;
  const written = right && (value === undefined ? right : `${right}=${value}`);
  const isRemovable = others.length > 0 && entry.fields[3]!.text.includes(',');
  return {
    entry,
    at: { from, to },
    sentence: `${entry.type} knows no option “${name}”${told ?? ''}.`,
    why: 'The kernel refuses a mount with an option that the file system does not know.',
    remedies: [
      ...(written ? [replacing(`Write ${right}`, { from, to }, written)] : []),
      ...(isRemovable ? [takingOut(entry.fields[3]!, { from, to })] : []),
    ],
  };
}

/** Options that the file system of their line does not know, and others do, or nobody. */
function unknowns(entries: readonly CheckedEntry[], isOther: boolean): Case[] {
  return entries.flatMap((entry) => {
    const known = knownTo(entry);
    if (!known) return [];
    return optionsIn(entry)
      .filter((told) => told.name !== '' && !known.has(told.name) && !isForeign(told))
      .flatMap((told) => {
        const others = typesWith(told.name);
        return others.length > 0 === isOther ? [unknownOf(entry, told, known, others)] : [];
      });
  });
}

const unknownOption = tableRule('table/unknown-option', 'stop', ({ entries }) => unknowns(entries, false));
const ofAnother = tableRule('table/option-of-another', 'stop', ({ entries }) => unknowns(entries, true));

/** A mistyped option of those that every program may have of its own. */
const foreign = tableRule('table/unknown-x-option', 'risk', ({ entries }) =>
  entries.flatMap((entry) =>
    optionsIn(entry).flatMap((told): Case[] => {
      const known = optionsOf('ext4')!;
      if (!/^x-systemd\.|^x-initrd\.|^X-mount\./.test(told.name) || known.has(told.name)) return [];
      const right = near(told.name, [...known.keys()]);
      return [
        {
          entry,
          at: told,
          sentence: `“${told.name}” is not known${right ? `; ${right} is` : ''}.`,
          why: 'What begins with x- and is not known is passed over without a word.',
          remedies: right
            ? [replacing(`Write ${right}`, { from: told.from, to: told.from + told.name.length }, right)]
            : [],
        },
      ];
    }),
  ),
);

const FORM: Readonly<
  Record<Exclude<OptionValue, readonly string[]>, { readonly form: RegExp; readonly text: string }>
> = {
  none: { form: /^$/, text: 'nothing' },
  n: { form: /^-?(\d+|0[xX][0-9a-fA-F]+)$/, text: 'a number' },
  octal: { form: /^0?[0-7]{1,4}$/, text: 'an octal number' },
  id: { form: /^(\d+|[a-zA-Z_][\w.-]*\$?|useid|forget|ignore)$/, text: 'a number or a name' },
  size: { form: /^\d+[%kKmMgGtT]?(i?B)?$/, text: 'a number, with a unit where wanted' },
  text: { form: /./, text: 'a text' },
};

/** What is wrong with the value of an option; undefined where nothing is. */
function wrongValue({ value }: Told, option: MountOption): string | undefined {
  const wants = typeof option.value === 'string' ? FORM[option.value].text : `one of ${option.value.join(', ')}`;
  if (value === undefined) return option.isOptional ? undefined : `wants ${wants} behind =`;
  if (option.value === 'none') return value === '' ? 'has nothing behind =' : 'takes no value';
  const isRight = typeof option.value === 'string' ? FORM[option.value].form.test(value) : option.value.includes(value);
  return isRight ? undefined : `has “${value}”, and wants ${wants}`;
}

const values = tableRule('table/option-value', 'stop', ({ entries }) =>
  entries.flatMap((entry) => {
    const known = knownTo(entry);
    if (!known) return [];
    return optionsIn(entry).flatMap((told): Case[] => {
      const option = known.get(told.name);
      const wrong = option && wrongValue(told, option);
      if (!option || wrong === undefined) return [];
      return [
        {
          entry,
          at: told,
          severity: isForeign(told) ? 'risk' : 'stop',
          sentence: `${told.name} ${wrong}.`,
          why: `So ${option.source} ${option.source.includes(';') ? 'have' : 'has'} it; the mount fails.`,
          remedies: option.value === 'none' ? [replacing(`Write ${told.name}`, told, told.name)] : [],
        },
      ];
    });
  }),
);

const empty = tableRule('table/empty-option', 'note', ({ entries }) =>
  entries.flatMap((entry) => {
    const told = optionsIn(entry);
    if (told.length === 1 || told.every(({ text }) => text !== '')) return [];
    // What is torn from its comma is told by the blank.
    if (entry.fields.length > 6) return [];
    const text = told
      .map((one) => one.text)
      .filter((one) => one !== '')
      .join(',');
    return [
      {
        entry,
        at: entry.fields[3],
        sentence: 'A comma has nothing at one of its sides.',
        why: 'An option may have been lost there.',
        remedies: text === '' ? [] : [replacing('Take the comma out', entry.fields[3]!, text)],
      },
    ];
  }),
);

/** The option that says the contrary. */
const contrary = (name: string): string => {
  if (name === 'ro') return 'rw';
  if (name === 'async') return 'sync';
  return `no${name}`;
};

const contradicting = tableRule('table/contradiction', 'risk', ({ entries }) =>
  entries.flatMap((entry) => {
    const told = optionsIn(entry);
    const last = new Map(told.map((one) => [one.name, one]));
    return told.flatMap((one): Case[] => {
      const again = last.get(one.name);
      const against = last.get(contrary(one.name));
      const other = again !== one && again?.value !== one.value ? again : against;
      if (one.name === '' || !other || other === one) return [];
      const [, second] = one.from < other.from ? [one, other] : [other, one];
      return [
        {
          entry,
          at: second,
          sentence: `The options say both ${one.text} and ${other.text}.`,
          why: 'The later one holds; the other was meant, or is left from before.',
        },
      ];
    });
  }),
);

export const OPTION_RULES = [unknownType, wrongType, unknownOption, ofAnother, foreign, values, empty, contradicting];
