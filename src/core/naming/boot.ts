/**
 * What starts a system: the command line of its kernel, entries in the form of the Boot Loader Specification
 * (Type #1), and the file that U-Boot and its like read, all from the ids of the layout.
 */
import type { BootEntry, Layout } from '../layout/document';
import { type NamedBy, SLOT_NAME_LIMIT } from '../layout/vocabulary';
import { isPlainFlash } from '../medium/medium';
import { isEspType, isExtendedBootType } from '../tables/types';
import { isSwap, type MountWord } from './mount-table';
import { type MachineMedium, nameablesOf, type Nameable, nameBy } from './nameable';

/** A word of a command line; `of` is the partition that it names. */
export interface CommandWord extends MountWord {
  readonly of?: Nameable;
  readonly by?: NamedBy;
}

export interface CommandLine {
  readonly words: readonly CommandWord[];
  /** What will not work, or may not. */
  readonly warnings: readonly string[];
}

/** A file with boot entries, as it stands on a medium. */
export interface BootFile {
  readonly path: string;
  /** The slot on which it belongs; undefined where the layout has none for it. */
  readonly on: Nameable | undefined;
  readonly why: string;
  readonly lines: readonly BootLine[];
  readonly text: string;
}

/** A line of such a file, the entry that it is of, and the command line where it holds that. */
export interface BootLine {
  readonly text: string;
  readonly entry?: BootEntry;
  readonly command?: CommandLine;
}

/** A word of a command line, in quotes where it has blanks. */
const quoted = (text: string) => (/\s/.test(text) ? `"${text}"` : text);

const tagged = (by: NamedBy, name: string) => (by === 'device name' ? name : `${by}=${name}`);

/** What the root is named by where nobody says. */
function rootBy(of: Nameable, hasRamDisk: boolean, isBusybox: boolean): { readonly by: NamedBy; readonly why: string } {
  if (!hasRamDisk) {
    if (of.partitionId !== undefined)
      return {
        by: 'PARTUUID',
        why: 'Without an initial RAM disk the kernel itself looks for the root, and knows ids of partitions alone.',
      };
    return {
      by: 'device name',
      why: 'Without an initial RAM disk and without a table the kernel knows the name of the device alone.',
    };
  }
  if (of.mounted?.id !== undefined)
    return { by: 'UUID', why: 'The initial RAM disk finds the file system by its id, which is made or read here.' };
  if (isBusybox && of.mounted?.label !== undefined)
    return { by: 'LABEL', why: 'BusyBox in the initial RAM disk knows UUID and LABEL alone.' };
  if (of.partitionId !== undefined)
    return { by: 'PARTUUID', why: 'The file system is made later, its id is not known yet: the partition has one.' };
  return { by: 'device name', why: 'Neither partition nor file system has an id that is known.' };
}

/** What an entry names its root by: as it asks, or by rule. */
function rootWord(entry: BootEntry, of: Nameable, isBusybox: boolean): CommandWord {
  const hasRamDisk = entry.initrd !== undefined;
  const asked = entry.rootBy !== undefined && nameBy(of, entry.rootBy) !== undefined ? entry.rootBy : undefined;
  const { by, why } = asked ? { by: asked, why: 'As the entry asks.' } : rootBy(of, hasRamDisk, isBusybox);
  return { text: quoted(`root=${tagged(by, nameBy(of, by)!)}`), why, of, by };
}

/** What may not work with a root that is named so. */
function warningsOf(entry: BootEntry, { by, of }: CommandWord, isBusybox: boolean): string[] {
  const hasRamDisk = entry.initrd !== undefined;
  const name = of?.placed.slot.name ?? entry.root;
  const warnings: string[] = [];
  if (!hasRamDisk && (by === 'UUID' || by === 'LABEL'))
    warnings.push(`${entry.title}: ${by}= of ${name} is found by an initial RAM disk alone, and the entry has none.`);
  if (hasRamDisk && isBusybox && (by === 'PARTUUID' || by === 'PARTLABEL'))
    warnings.push(`${entry.title}: BusyBox in the initial RAM disk does not know ${by}=.`);
  if (by === 'device name') warnings.push(`${entry.title}: a kernel may give ${name} another name at every start.`);
  return warnings;
}

/** The command line of an entry. */
export function commandLine(entry: BootEntry, medium: MachineMedium): CommandLine {
  const { layout } = medium.placement;
  const nameables = nameablesOf([medium]);
  const of = nameables.find(({ placed }) => placed.slot.id === entry.root)!;
  const isBusybox = layout.machine?.mountTool === 'busybox';
  const root = rootWord(entry, of, isBusybox);
  const words: CommandWord[] = [root];
  const { kind } = layout.medium;
  if (isPlainFlash(kind) || kind === 'stick')
    words.push({ text: 'rootwait', why: 'Cards and sticks come up late: the kernel waits for them.' });
  words.push(
    entry.writable
      ? { text: 'rw', why: 'The root is mounted for writing at once, as the entry asks.' }
      : { text: 'ro', why: 'The root is mounted for reading alone until it was checked.' },
  );
  const warnings = warningsOf(entry, root, isBusybox);
  if (layout.machine?.hibernates && entry.initrd) {
    const swap = nameables.filter(isSwap).sort((a, b) => b.placed.sectors - a.placed.sectors)[0];
    const by = swap && (['UUID', 'PARTUUID', 'LABEL'] as const).find((one) => nameBy(swap, one) !== undefined);
    if (swap && by)
      words.push({
        text: `resume=${tagged(by, nameBy(swap, by)!)}`,
        why: 'Where the machine wrote its memory when it went to sleep: its largest swap.',
        of: swap,
        by,
      });
    else warnings.push(`${entry.title}: the machine hibernates, and no swap has an id.`);
  }
  for (const text of entry.options?.split(/\s+/).filter((one) => one !== '') ?? [])
    words.push({ text, why: 'As the entry asks.' });
  return { words, warnings };
}

/** The line with the command line of an entry, behind what begins it. */
function commandText(ahead: string, entry: BootEntry, medium: MachineMedium): BootLine {
  const command = commandLine(entry, medium);
  return { text: `${ahead} ${command.words.map(({ text }) => text).join(' ')}`, entry, command };
}

/** Where the files of entries lie: on the extended boot loader partition, else on the ESP. */
function specificationSlot(nameables: readonly Nameable[]): Nameable | undefined {
  const typed = (is: (type: string) => boolean) =>
    nameables.find(({ placed }) => placed.entry !== undefined && is(placed.entry.type));
  return typed(isExtendedBootType) ?? typed(isEspType) ?? nameables.find(({ placed }) => placed.slot.role === 'esp');
}

const KEY_WIDTH = 10;

/** The lines of one entry. */
function specificationLines(entry: BootEntry, index: number, medium: MachineMedium): BootLine[] {
  const rows: [string, string][] = [
    ['title', entry.title],
    // Boot managers sort entries: by this first, so that the usual one is the first.
    ['sort-key', String(index + 1).padStart(2, '0')],
    ['linux', entry.kernel],
    ...(entry.initrd ?? []).map((path): [string, string] => ['initrd', path]),
    ...(entry.devicetree === undefined ? [] : [['devicetree', entry.devicetree] as [string, string]]),
  ];
  return [
    ...rows.map(([key, value]) => ({ text: `${key.padEnd(KEY_WIDTH)} ${value}`, entry })),
    commandText('options'.padEnd(KEY_WIDTH), entry, medium),
  ];
}

/** The partition that a loader of a board looks into: the one that is marked bootable, else the first. */
function boardSlot(nameables: readonly Nameable[]): Nameable | undefined {
  const isMarked = ({ placed: { slot } }: Nameable) =>
    slot.active === true || slot.attributes?.includes('legacy boot') === true;
  return nameables.find(isMarked) ?? nameables.find(({ mounted }) => mounted !== undefined && mounted.type !== 'swap');
}

/** Tenths of a second that people have to choose. */
const PATIENCE = 30;

function boardLines(entries: readonly BootEntry[], medium: MachineMedium): BootLine[] {
  const parts = entries.flatMap((entry): BootLine[] => [
    { text: `LABEL ${entry.id}`, entry },
    { text: `  LINUX ${entry.kernel}`, entry },
    // One line holds all: what reads this file loads a single one.
    ...(entry.initrd ? [{ text: `  INITRD ${entry.initrd[0]}`, entry }] : []),
    ...(entry.devicetree === undefined ? [] : [{ text: `  FDT ${entry.devicetree}`, entry }]),
    commandText('  APPEND', entry, medium),
    { text: '' },
  ]);
  return [{ text: `DEFAULT ${entries[0]!.id}` }, { text: `TIMEOUT ${PATIENCE}` }, { text: '' }, ...parts.slice(0, -1)];
}

/** A file of these lines. */
function fileOf(path: string, on: Nameable | undefined, why: string, lines: readonly BootLine[]): BootFile {
  return { path, on, why, lines, text: lines.map(({ text }) => `${text}\n`).join('') };
}

/** The files that say the entries of a layout, and where each belongs; none without entries. */
export function bootFiles(medium: MachineMedium): BootFile[] {
  const { layout } = medium.placement;
  const entries = layout.entries ?? [];
  if (entries.length === 0) return [];
  const nameables = nameablesOf([medium]);
  const [specified, board] = [specificationSlot(nameables), boardSlot(nameables)];
  const { boots } = layout;
  const whySpecified =
    specified === undefined
      ? 'The layout has neither an ESP nor an extended boot loader partition: the file belongs on that of the machine.'
      : specified.placed.slot.role === 'esp'
        ? 'On the ESP: the layout has no extended boot loader partition.'
        : 'On the extended boot loader partition, which goes ahead of the ESP.';
  const forFirmware = entries.map((entry, i) =>
    fileOf(`/loader/entries/${entry.id}.conf`, specified, whySpecified, specificationLines(entry, i, medium)),
  );
  const forBoard = fileOf(
    '/extlinux/extlinux.conf',
    board,
    'On the partition that is marked bootable, or else the first one with a file system.',
    boardLines(entries, medium),
  );
  // What starts it reads one of the two forms; a BIOS has a loader of its own, which may read either.
  const readsBoard = boots.includes('board') || boots.length === 0;
  const readsSpecified = boots.includes('uefi') || specified !== undefined;
  const isAny = !readsBoard && !readsSpecified;
  return [...(readsBoard || isAny ? [forBoard] : []), ...(readsSpecified || isAny ? forFirmware : [])];
}

/** A name of a file that follows from a text. */
const slug = (text: string) =>
  text
    .normalize('NFD')
    .replace(/[^A-Za-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .toLowerCase()
    .slice(0, 40) || 'system';

/** Entries for every system of a layout, and a second one for the first, to fall back to. */
export function proposedEntries(layout: Layout): BootEntry[] {
  const systems = layout.slots.filter(
    (slot) => slot.kind === 'partition' && (slot.role === 'system' || slot.mount === '/'),
  );
  const isBoard = layout.boots.includes('board');
  const entries = systems.slice(0, 8).map((slot): BootEntry => ({
    id: slug(slot.name),
    title: `${layout.name}: ${slot.name}`.slice(0, SLOT_NAME_LIMIT),
    root: slot.id,
    kernel: isBoard ? '/Image' : '/vmlinuz',
    ...(!isBoard && { initrd: ['/initrd.img'] }),
  }));
  const named = entries.map((entry, i) =>
    entries.findIndex(({ id }) => id === entry.id) === i ? entry : { ...entry, id: `${entry.id}-${i + 1}` },
  );
  const [first] = named;
  if (!first) return [];
  return [
    ...named,
    { ...first, id: `${first.id}-rescue`, title: `${first.title.slice(0, 60)}, rescue`, options: 'single' },
  ];
}
