/** Rules about the form of a line: its fields, its numbers, its paths. */
import { counted } from '../../quantity/units';
import { escapedField } from '../../naming/mount-table';
import { KNOWN_TYPES } from './mount-options';
import type { Field } from './mount-text';
import { type Case, type CheckedEntry, endOf, tableRule, type TextEdit } from './finding';

const MOST_FIELDS = 6;

/** Replaces a field, or a part of it. */
export const replacing = (label: string, at: Pick<Field, 'from' | 'to'>, text: string): TextEdit => ({
  label,
  from: at.from,
  to: at.to,
  text,
});

const cut = tableRule('table/too-long', 'risk', ({ table }) =>
  table.isCut
    ? [
        {
          entry: table.entries[table.entries.length - 1] ?? endOf({ ...table, text: '' }),
          sentence: `The table is longer than what is read of one: lines behind this one were not checked.`,
          why: 'No machine has so many file systems; it may be another file.',
        },
      ]
    : [],
);

const controls = tableRule('table/control-characters', 'risk', ({ table, entries }) =>
  entries.flatMap((entry): Case[] => {
    const text = table.text.slice(entry.from, entry.to);
    const at = text.search(/[\u0000-\u0008\u000b-\u001f\u007f]/);
    if (at < 0) return [];
    const code = text.charCodeAt(at).toString(16).toUpperCase().padStart(2, '0');
    return [
      {
        entry,
        at: { from: entry.from + at, to: entry.from + at + 1 },
        sentence: `The line holds a character that no table has: ${code}h.`,
        why: 'Programs end the line there, or take it as a part of the field.',
      },
    ];
  }),
);

const lineEnds = tableRule('table/line-ends', 'risk', ({ table, entries }) => {
  const [first] = entries;
  if (!table.hasCr || !first) return [];
  const whole = { from: 0, to: table.text.length };
  return [
    {
      entry: first,
      at: { from: first.to, to: first.to },
      sentence: 'Lines end with CR and LF.',
      why: 'Some programs take the CR as a part of the last field, which is no number then.',
      remedies: [replacing('End all lines with LF alone', whole, table.text.replaceAll('\r\n', '\n'))],
    },
  ];
});

const lastLine = tableRule('table/last-line', 'note', ({ table, entries }) => {
  const last = entries[entries.length - 1];
  if (!last || table.isCut || last.to !== table.text.length) return [];
  return [
    {
      entry: last,
      at: { from: last.to, to: last.to },
      sentence: 'The last line does not end.',
      why: 'What is appended to the file is appended to that line.',
      remedies: [replacing('End the last line', { from: last.to, to: last.to }, '\n')],
    },
  ];
});

const tooFew = tableRule('table/too-few-fields', 'stop', ({ entries }) =>
  entries
    .filter(({ fields }) => fields.length < 4)
    .map((entry) => ({
      entry,
      severity: entry.fields.length < 3 ? 'stop' : 'note',
      sentence: `The line has ${counted(entry.fields.length, 'field')}: source, mount point, type and options make four.`,
      why:
        entry.fields.length < 3
          ? 'Programs pass the line over, and nothing is mounted.'
          : 'Some programs want the options; defaults says that there are none.',
      remedies:
        entry.fields.length === 3 ? [replacing('Write defaults', { from: entry.to, to: entry.to }, ' defaults')] : [],
    })),
);

/** Fields that belong together: those ahead of the first one that is a type, but one of the source. */
function torn({ fields }: CheckedEntry): readonly Field[] | undefined {
  const type = fields.findIndex(({ value }, i) => i > 2 && KNOWN_TYPES.includes(value));
  if (type < 0) return undefined;
  // Where the mount point begins: with its first slash.
  const point = fields.findIndex(({ value }, i) => i > 0 && i < type && value.startsWith('/'));
  if (point < 0) return undefined;
  return point > 1 ? fields.slice(0, point) : fields.slice(point, type);
}

const torns = tableRule('table/unescaped-blank', 'stop', ({ table, entries }) =>
  entries
    .filter(
      ({ fields, type }) => fields.length > MOST_FIELDS || (fields.length > 4 && !KNOWN_TYPES.includes(type ?? '')),
    )
    .flatMap((entry): Case[] => {
      const together = torn(entry);
      const behind = entry.fields[MOST_FIELDS];
      if (!together && !behind) return [];
      // Options that are torn apart at a comma.
      const comma = entry.fields.slice(0, -1).findIndex(({ text }, i) => i > 2 && text.endsWith(','));
      if (!together && comma > 0) {
        const [first, second] = [entry.fields[comma]!, entry.fields[comma + 1]!];
        const gap = { from: first.to, to: second.from };
        return [
          {
            entry,
            at: gap,
            sentence: `A blank stands in the options, behind “${first.text}”.`,
            why: 'The options end at the blank, and what follows is taken for the numbers.',
            remedies: [replacing('Take the blank out', gap, '')],
          },
        ];
      }
      if (!together || together.length < 2)
        return [
          {
            entry,
            at: behind,
            sentence: `The line has ${counted(entry.fields.length, 'field')}, ${MOST_FIELDS} at most mean something.`,
            why: 'A blank within a field ends it; written as \\040 it does not.',
          },
        ];
      const at = { from: together[0]!.from, to: together[together.length - 1]!.to };
      const text = table.text.slice(at.from, at.to);
      return [
        {
          entry,
          at,
          sentence: `A blank stands within “${text}”.`,
          why: 'A blank ends the field; written as \\040 it does not.',
          remedies: [replacing('Write it as \\040', at, escapedField(text))],
        },
      ];
    }),
);

const escapes = tableRule('table/bad-escape', 'risk', ({ entries }) =>
  entries.flatMap((entry) =>
    entry.fields.flatMap((field): Case[] => {
      if (field.text.startsWith('/dev/disk/')) return [];
      const at = field.text.search(/\\(?![0-7]{3})/);
      if (at < 0) return [];
      return [
        {
          entry,
          at: { from: field.from + at, to: field.from + at + 1 },
          sentence: `“${field.text}” has a backslash that no three octal digits follow.`,
          why: 'A blank is \\040, a tab \\011, a backslash itself \\134; anything else stays as it stands.',
          remedies: [
            replacing('Write the backslash as \\134', { from: field.from + at, to: field.from + at + 1 }, '\\134'),
          ],
        },
      ];
    }),
  ),
);

const quotes = tableRule('table/quotes', 'risk', ({ entries }) =>
  entries.flatMap((entry) =>
    entry.fields.slice(0, 3).flatMap((field): Case[] => {
      const inner = /^(["'])(.+)\1$/.exec(field.text)?.[2];
      if (inner === undefined) return [];
      return [
        {
          entry,
          at: field,
          sentence: `${field.text} stands in quotes.`,
          why: 'Quotes are allowed behind UUID= and LABEL= alone; elsewhere they are a part of the name.',
          remedies: [replacing('Take the quotes off', field, escapedField(inner))],
        },
      ];
    }),
  ),
);

const isPlace = (point: string) => point.startsWith('/');
/** What stands for no mount point. */
export const NOWHERE = ['none', 'swap', '-'];

const relative = tableRule('table/relative-path', 'stop', ({ entries }) =>
  entries.flatMap((entry): Case[] => {
    const { point, type, fields } = entry;
    if (point === undefined || isPlace(point) || (type === 'swap' && NOWHERE.includes(point))) return [];
    if (NOWHERE.includes(point))
      return [
        {
          entry,
          at: fields[1],
          sentence: `The mount point is “${point}”, and the type is ${type ?? 'missing'}.`,
          why: 'Swap space alone is mounted nowhere.',
        },
      ];
    return [
      {
        entry,
        at: fields[1],
        sentence: `The mount point “${fields[1]!.text}” does not begin with /.`,
        why: 'A mount point is a path from the root.',
        ...(/^[\w.]/.test(point) && {
          remedies: [replacing('Begin it with /', { ...fields[1]!, to: fields[1]!.from }, '/')],
        }),
      },
    ];
  }),
);

const odd = tableRule('table/odd-path', 'note', ({ entries }) =>
  entries.flatMap((entry): Case[] => {
    const { point, fields } = entry;
    if (point === undefined || !isPlace(point)) return [];
    const parts = point.split('/');
    const isOdd = /\/\/|.\/$/.test(point) || parts.includes('.') || parts.includes('..');
    if (!isOdd) return [];
    const clean = `/${parts.filter((part) => part !== '' && part !== '.').join('/')}`;
    return [
      {
        entry,
        at: fields[1],
        sentence: `The mount point “${point}” is not written as systems write it.`,
        why: 'Programs compare mount points as text: two ways to write one are two mount points.',
        ...(!parts.includes('..') && { remedies: [replacing(`Write ${clean}`, fields[1]!, escapedField(clean))] }),
      },
    ];
  }),
);

const numbers = tableRule('table/number', 'stop', ({ entries }) =>
  entries
    .filter(({ fields }) => fields.length <= MOST_FIELDS)
    .flatMap((entry) =>
      entry.fields.slice(4, MOST_FIELDS).flatMap((field, i): Case[] => {
        if (/^\d{1,9}$/.test(field.text)) return [];
        const what = i === 0 ? 'fifth field, dump,' : 'sixth field, the pass of the check,';
        return [
          {
            entry,
            at: field,
            sentence: `“${field.text}” is no number: the ${what} is one.`,
            why: 'Programs pass over the whole line.',
            remedies: [replacing('Write 0', field, '0')],
          },
        ];
      }),
    ),
);

export const FORM_RULES = [cut, controls, lineEnds, lastLine, tooFew, torns, escapes, quotes, relative, odd, numbers];
