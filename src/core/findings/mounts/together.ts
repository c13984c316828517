/** Rules about lines together, and about what the layouts want of them: order, passes, what is missing. */
import { fieldsOf, inColumns, mayBeAbsent, type MountLine, systemOf } from '../../naming/mount-table';
import { type Case, type CheckedEntry, endOf, tableRule, type TextEdit } from './finding';
import { NOWHERE, replacing } from './form';

const isMounted = ({ point }: CheckedEntry) => point !== undefined && point.startsWith('/');
const optionsOf = ({ fields }: CheckedEntry) => fields[3]?.value.split(',') ?? [];
const has = (entry: CheckedEntry, ...options: string[]) => optionsOf(entry).some((one) => options.includes(one));
const isBind = (entry: CheckedEntry) => has(entry, 'bind', 'rbind');

const twice = tableRule('table/mount-point-twice', 'stop', ({ entries }) => {
  const seen = new Map<string, CheckedEntry>();
  return entries.filter(isMounted).flatMap((entry): Case[] => {
    const first = seen.get(entry.point!);
    if (!first) {
      seen.set(entry.point!, entry);
      return [];
    }
    return [
      {
        entry,
        at: entry.fields[1],
        sentence: `Line ${first.line} mounts something at ${entry.point} already.`,
        why: 'The later one hides the earlier.',
      },
    ];
  });
});

const sourceTwice = tableRule('table/source-twice', 'risk', ({ entries }) => {
  const seen = new Map<object, CheckedEntry>();
  return entries
    .filter((entry) => entry.names.length === 1 && !isBind(entry) && entry.type !== 'btrfs')
    .flatMap((entry): Case[] => {
      const first = seen.get(entry.names[0]!);
      if (!first) {
        seen.set(entry.names[0]!, entry);
        return [];
      }
      return [
        {
          entry,
          at: entry.fields[0],
          sentence: `Line ${first.line} names ${entry.names[0]!.placed.slot.name} already.`,
          why: 'One file system at two places: options of the second mount are those of the first.',
        },
      ];
    });
});

const order = tableRule('table/order', 'risk', ({ table, entries }) => {
  const places = new Map(entries.filter(isMounted).map((entry) => [entry.point!, entry]));
  return entries.filter(isMounted).flatMap((entry): Case[] => {
    for (let at = entry.point!.lastIndexOf('/'); at >= 0; at = at === 0 ? -1 : entry.point!.lastIndexOf('/', at - 1)) {
      const above = at === 0 ? '/' : entry.point!.slice(0, at);
      const parent = above === entry.point ? undefined : places.get(above);
      if (!parent || parent.line < entry.line) continue;
      return [
        {
          entry,
          at: entry.fields[1],
          sentence: `${entry.point} lies in ${above}, which line ${parent.line} mounts only later.`,
          why: 'Where lines are taken one after the other, the later mount hides this one.',
          remedies: [exchanging(table.text, entry, parent)],
        },
      ];
    }
    return [];
  });
});

/** The remedy that puts a line behind another. */
function exchanging(text: string, first: CheckedEntry, second: CheckedEntry): TextEdit {
  const [one, between, other] = [
    text.slice(first.from, first.to),
    text.slice(first.to, second.from),
    text.slice(second.from, second.to),
  ];
  return replacing(
    `Exchange lines ${first.line} and ${second.line}`,
    { from: first.from, to: second.to },
    other + between + one,
  );
}

const noRoot = tableRule('table/no-root', 'stop', ({ table, entries, wanted, media }) => {
  if (entries.length === 0 || entries.some(({ point }) => point === '/')) return [];
  const root = wanted.find(({ point }) => point.text === '/');
  const isSystem = entries.some(({ point }) => ['/usr', '/var', '/home', '/boot', '/boot/efi'].includes(point ?? ''));
  if (!root && !isSystem) return [];
  const where = media.length > 0 && !root ? 'the layouts have none either' : 'no line mounts /';
  return [
    {
      entry: endOf(table),
      severity: root ? 'stop' : 'risk',
      sentence: `The root is missing: ${where}.`,
      why: 'It stays as the kernel mounted it, mostly for reading alone, and is never checked.',
      remedies: root ? [adding(table.text, root)] : [],
    },
  ];
});

/** The end of line that a table uses. */
export const lineEnd = (text: string) => (/\r\n/.test(text) ? '\r\n' : '\n');

/** The remedy that puts a line of the layouts at the end. */
function adding(text: string, line: MountLine): TextEdit {
  const end = lineEnd(text);
  const ahead = text === '' || text.endsWith('\n') ? '' : end;
  const label = `Add the line of ${line.of.placed.slot.name}`;
  return replacing(label, { from: text.length, to: text.length }, `${ahead}${inColumns([fieldsOf(line)])[0]}${end}`);
}

const missing = tableRule('table/slot-missing', 'note', (checked) => {
  const { table, entries, wanted } = checked;
  if (entries.length === 0) return [];
  const named = new Set(entries.flatMap(({ names }) => names));
  const places = new Set(entries.map(({ point }) => point));
  const sources = new Set(entries.map(({ source }) => source.name));
  return wanted
    .filter(
      ({ of, point, by, source }) =>
        !named.has(of) &&
        (by !== 'device name' || !sources.has(source.text)) &&
        point.text !== '/' &&
        (point.text === 'none' || !places.has(of.placed.slot.mount)),
    )
    .map((line) => ({
      entry: endOf(table),
      sentence: `No line names ${line.of.placed.slot.name}, which the layout ${line.point.text === 'none' ? 'has for swap' : `mounts at ${line.point.text}`}.`,
      why: 'It is there and nobody uses it.',
      remedies: [adding(table.text, line)],
    }));
});

const swapMounted = tableRule('table/swap-mounted', 'stop', ({ entries }) =>
  entries
    .filter(({ type, point }) => type === 'swap' && point !== undefined && !NOWHERE.includes(point))
    .map((entry) => ({
      entry,
      at: entry.fields[1],
      sentence: `Swap space has the mount point ${entry.point}.`,
      why: 'Swap space is used, and mounted nowhere: none stands there.',
      remedies: [replacing('Write none', entry.fields[1]!, 'none')],
    })),
);

const absent = tableRule('table/no-nofail', 'risk', ({ entries, nameables }) => {
  const system = systemOf(nameables);
  return entries.flatMap((entry): Case[] => {
    const [named] = entry.names;
    const options = entry.fields[3];
    if (entry.names.length !== 1 || !named || !options || !mayBeAbsent(named, system)) return [];
    if (entry.point === '/' || has(entry, 'nofail', 'noauto')) return [];
    const text = options.text === 'defaults' ? 'nofail' : `${options.text},nofail`;
    return [
      {
        entry,
        at: options,
        sentence: `${named.placed.slot.name} may be absent, and its options do not say nofail.`,
        why: 'The start stops, or waits a minute and a half, when the medium is not there.',
        remedies: [replacing('Add nofail', options, text)],
      },
    ];
  });
});

const passes = tableRule('table/pass', 'risk', ({ entries }) =>
  entries.flatMap((entry): Case[] => {
    const field = entry.fields[5];
    const pass = Number(field?.text ?? '0');
    if (!/^\d{1,9}$/.test(field?.text ?? '0') || entry.fields.length > 6) return [];
    const own = entry.names.length === 1 && !entry.isElsewhere ? entry.names[0]!.mounted?.type : undefined;
    const type = own ?? entry.type;
    const say = (right: number, sentence: string, why: string, severity: 'risk' | 'note' = 'risk'): Case[] => [
      {
        entry,
        severity,
        at: field,
        sentence,
        why,
        remedies: field ? [replacing(`Write ${right}`, field, String(right))] : [],
      },
    ];
    if (pass > 2)
      return say(2, `The pass ${pass} is none: 0, 1 and 2 mean something.`, 'It is read as 2, or not at all.');
    if (type === 'swap' || entry.type === 'swap')
      return pass === 0 ? [] : say(0, `Swap space has the pass ${pass}.`, 'There is nothing to check.');
    if (/^(btrfs|xfs|squashfs|erofs|iso9660|udf|tmpfs|proc|overlay)$/.test(type ?? '') || isBind(entry))
      return pass === 0
        ? []
        : say(
            0,
            `${type ?? 'It'} has the pass ${pass}, and is not checked at start.`,
            'A check that does not exist delays the start, or stops it.',
          );
    if (entry.point === '/' && pass !== 1 && /^ext/.test(type ?? ''))
      return say(
        1,
        `The root has the pass ${pass}.`,
        'It is checked first, ahead of all others, or it is not checked.',
        pass === 0 ? 'note' : 'risk',
      );
    if (entry.point !== '/' && pass === 1)
      return say(
        2,
        `${entry.point ?? 'It'} has the pass 1, which is that of the root.`,
        'It is checked beside the root, and both wait for one disk.',
      );
    return [];
  }),
);

export const TOGETHER_RULES = [twice, sourceTwice, order, swapMounted, passes, absent, noRoot, missing];
