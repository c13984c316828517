/**
 * The mount table of a machine, from the layouts of its media (fstab(5)): which partition is mounted where, by
 * which name and with which options, each word with its reason.
 */
import { keepsInside } from '../layout/kept';
import { isPlainFlash } from '../medium/medium';
import type { MOUNT_TOOLS, NamedBy } from '../layout/vocabulary';
import type { Machine } from '../layout/document';
import { type MachineMedium, nameablesOf, type Nameable, nameBy } from './nameable';

/** A word of a line and why it stands there. */
export interface MountWord {
  readonly text: string;
  readonly why: string;
}

/** A line of a mount table; `dump` is always 0. */
export interface MountLine {
  readonly of: Nameable;
  readonly by: NamedBy;
  readonly source: MountWord;
  readonly point: MountWord;
  readonly type: MountWord;
  readonly options: readonly MountWord[];
  readonly dump: MountWord;
  readonly pass: MountWord;
  /** What is not well with it, however it is written: a name that may change. */
  readonly warning: string | undefined;
}

/** What a machine mounts with. */
export interface Mounter {
  readonly tool: (typeof MOUNT_TOOLS)[number] | undefined;
  readonly hasSystemd: boolean;
}

/** Where the system of the machine lies, where one of the media says so, or one of the partitions is seen from. */
export function systemOf(nameables: readonly Nameable[]): MachineMedium | undefined {
  return nameables.find(({ placed }) => placed.slot.mount === '/')?.medium;
}

/** What the machine mounts with, as the layouts say it, or by its use. */
export function mounterOf(media: readonly MachineMedium[]): Mounter {
  const said = <K extends keyof Machine>(key: K): Machine[K] | undefined => {
    const own = [systemOf(nameablesOf(media)), ...media].map((one) => one?.placement.layout.machine?.[key]);
    return own.find((value) => value !== undefined);
  };
  const use = said('use');
  const services = said('services') ?? (use === 'desktop' || use === 'server' ? 'systemd' : 'other');
  const tool = said('mountTool');
  return { tool, hasSystemd: services === 'systemd' && tool === undefined };
}

/** Octal escapes of a field, as fstab(5) has them. */
export function escapedField(text: string): string {
  return text.replace(/[ \t\n\\]/g, (c) => `\\${c.charCodeAt(0).toString(8).padStart(3, '0')}`);
}

/** A name as it stands in the first field of a line. */
export function sourceText(by: NamedBy, name: string): string {
  return by === 'device name' ? name : `${by}=${escapedField(name)}`;
}

/** A medium that can be taken out of the machine. */
const isRemovable = ({ placement }: MachineMedium) => ['card', 'stick'].includes(placement.layout.medium.kind);

/** True where a system is to start without this partition too. */
export function mayBeAbsent({ medium, placed }: Nameable, system: MachineMedium | undefined): boolean {
  const { mounting, mount } = placed.slot;
  if (mount === '/') return false;
  return mounting?.mayBeAbsent ?? (medium !== system && isRemovable(medium));
}

/** Where that was read which is not made here. */
const readWhere = ({ placed }: Nameable) =>
  keepsInside(placed.slot) ? 'found on the medium' : 'read of the image that is put in';

/** What it is named by where nobody says, and why. */
function namedBy(one: Nameable, { tool }: Mounter): { readonly by: NamedBy; readonly why: string } {
  const { mounted } = one;
  const made = mounted?.known === 'made' ? 'made here' : readWhere(one);
  if (mounted?.id !== undefined)
    return { by: 'UUID', why: `The id of the file system, which is ${made}; it stays when the partition moves.` };
  if (mounted?.label !== undefined && (tool === 'busybox' || one.partitionId === undefined))
    return { by: 'LABEL', why: 'The label of the file system: it has no id.' };
  if (one.partitionId !== undefined)
    return {
      by: 'PARTUUID',
      why: 'The id of the partition: its own system makes the file system later, and gives it an id that nobody knows yet.',
    };
  return {
    by: 'device name',
    why: 'Neither the file system nor the medium, which has no table, has an id that is known.',
  };
}

const WHY_ASKED: Readonly<Record<NamedBy, string>> = {
  UUID: 'The id of the file system, as the layout asks.',
  PARTUUID: 'The id of the partition, as the layout asks; it stays when the file system is made anew.',
  LABEL: 'The label of the file system, as the layout asks; two with one label are mixed up.',
  PARTLABEL: 'The name of the partition, as the layout asks; two with one name are mixed up.',
  'device name': 'The name that the kernel gives the device, as the layout asks.',
};

const CHANGES = 'A kernel may give the device another name at every start, and then something else is mounted there.';

function sourceOf(one: Nameable, mounter: Mounter): Pick<MountLine, 'by' | 'source' | 'warning'> {
  const asked = one.placed.slot.mounting?.by;
  const isKnown = asked !== undefined && nameBy(one, asked) !== undefined;
  const { by, why } = isKnown ? { by: asked, why: WHY_ASKED[asked] } : namedBy(one, mounter);
  const name = nameBy(one, by)!;
  const missed = asked !== undefined && !isKnown ? ` The layout asks for ${asked}, which it does not have.` : '';
  return {
    by,
    source: { text: sourceText(by, name), why: why + missed },
    warning: by === 'device name' ? CHANGES : undefined,
  };
}

const TYPE_WHY = {
  made: 'what is made here',
  read: 'what was read of the image',
  later: 'what its system makes',
} as const;

function typeOf(one: Nameable): MountWord {
  const { mounted } = one;
  if (mounted?.type === undefined)
    return { text: 'auto', why: 'What its system makes is not known: the kernel looks for itself.' };
  return {
    text: mounted.type,
    why: `The word of the kernel for ${mounted.known === 'read' && keepsInside(one.placed.slot) ? 'what was found on the medium' : TYPE_WHY[mounted.known]}.`,
  };
}

/** File systems that write the time of every reading where nothing else is asked. */
const WITH_TIMES = ['ext2', 'ext3', 'ext4', 'vfat', 'exfat', 'xfs', 'btrfs', 'f2fs', 'ntfs3', 'auto'];
const WITHOUT_OWNERS = ['vfat', 'exfat', 'ntfs3'];

/** The options by rule. */
function optionsByRule(one: Nameable, type: string, mounter: Mounter, context: Context): MountWord[] {
  const { slot } = one.placed;
  const { medium } = one.medium.placement.layout;
  const words: MountWord[] = [];
  const add = (text: string, why: string) => void words.push({ text, why });
  if (type === 'swap') {
    add('sw', 'Used as swap space at start.');
    const index = context.swaps.indexOf(one);
    if (context.swaps.length > 1)
      add(`pri=${context.swaps.length - index}`, 'Of several, the one with the higher number is used first.');
  }
  if (slot.attributes?.includes('read-only')) add('ro', 'The partition is marked read only.');
  if (isPlainFlash(medium.kind) && WITH_TIMES.includes(type))
    add('noatime', 'Reading a file writes nothing: flash wears by writing.');
  if (WITHOUT_OWNERS.includes(type)) {
    const isPrivate = slot.role === 'esp' || slot.role === 'boot' || slot.role === 'system';
    if (!isPrivate) {
      add('uid=1000', 'The file system keeps no owners: all is owned by user 1000, the first of most systems.');
      add('gid=1000', 'The file system keeps no groups: all is in group 1000.');
    }
    add(
      isPrivate ? 'umask=0077' : 'umask=0022',
      isPrivate ? 'Only the administrator reads it: keys may lie there.' : 'Everybody reads, the owner writes.',
    );
  }
  if (mayBeAbsent(one, context.system)) {
    add('nofail', 'The system starts without it too.');
    if (mounter.hasSystemd) add('x-systemd.device-timeout=10s', 'It is waited for ten seconds, and no longer.');
  }
  if (mounter.hasSystemd && slot.attributes?.includes('grow') && type !== 'swap')
    add('x-systemd.growfs', 'The file system grows into its partition when it is mounted first.');
  if (words.length === 0) add('defaults', 'Nothing is asked beyond what is usual.');
  return words;
}

/** When it is checked at start. */
function passOf({ placed: { slot } }: Nameable, type: string): MountWord {
  const asked = slot.mounting?.pass;
  if (asked !== undefined) return { text: String(asked), why: 'As the layout asks.' };
  if (type === 'swap') return { text: '0', why: 'Swap space is not checked.' };
  const isChecked = /^ext[234]$|^vfat$|^auto$/.test(type);
  if (!isChecked) return { text: '0', why: `${type} is not checked at start.` };
  return slot.mount === '/'
    ? { text: '1', why: 'The root is checked first.' }
    : { text: '2', why: 'Checked behind the root.' };
}

interface Context {
  readonly system: MachineMedium | undefined;
  readonly swaps: readonly Nameable[];
}

/** True for swap space: by what is made, or by what it is for. */
export function isSwap({ mounted, placed: { slot } }: Nameable): boolean {
  return mounted?.type === 'swap' || (slot.role === 'swap' && mounted !== undefined && mounted.type === undefined);
}

function lineOf(one: Nameable, mounter: Mounter, context: Context): MountLine {
  const { slot } = one.placed;
  const isSwapSpace = isSwap(one);
  const type: MountWord = isSwapSpace ? { text: 'swap', why: 'Swap space.' } : typeOf(one);
  const asked = slot.mounting?.options;
  return {
    of: one,
    ...sourceOf(one, mounter),
    point: isSwapSpace
      ? { text: 'none', why: 'Swap space is mounted nowhere.' }
      : { text: escapedField(slot.mount!), why: `Where ${slot.name} is mounted, as the layout says.` },
    type,
    options:
      asked === undefined
        ? optionsByRule(one, type.text, mounter, context)
        : asked.split(',').map((text) => ({ text, why: 'As the layout asks.' })),
    dump: { text: '0', why: 'For a backup program that nobody uses any more.' },
    pass: passOf(one, type.text),
  };
}

/** Parents ahead of what is mounted in them; swap space at the end. */
function inOrder(a: MountLine, b: MountLine): number {
  const depth = ({ point: { text } }: MountLine) =>
    text === 'none' ? Infinity : text.split('/').filter((part) => part !== '').length;
  const [first, second] = [depth(a), depth(b)];
  return first === second ? 0 : first - second;
}

/** The lines of a machine: everything that has a mount point, and swap space. */
export function mountLines(media: readonly MachineMedium[], nameables = nameablesOf(media)): MountLine[] {
  const mounter = mounterOf(media);
  const wanted = nameables.filter((one) => {
    const { mount, mounting } = one.placed.slot;
    return mounting?.leftOut !== true && (isSwap(one) || mount !== undefined);
  });
  const context: Context = { system: systemOf(nameables), swaps: wanted.filter(isSwap) };
  return wanted.map((one) => lineOf(one, mounter, context)).sort(inOrder);
}

/** The fields of a line, in their order. */
export function fieldsOf({ source, point, type, options, dump, pass }: MountLine): string[] {
  return [source.text, point.text, type.text, options.map(({ text }) => text).join(','), dump.text, pass.text];
}

/** Lines in columns. */
export function inColumns(rows: readonly (readonly string[])[]): string[] {
  const widths = rows.reduce<number[]>((most, row) => row.map((text, i) => Math.max(most[i] ?? 0, text.length)), []);
  return rows.map((row) => row.map((text, i) => (i + 1 < row.length ? text.padEnd(widths[i]!) : text)).join('  '));
}

/** What a comment may hold: one line, whatever a name holds. */
export function commentText(text: string): string {
  return text.replace(/[\u0000-\u001f\u007f-\u009f]/g, ' ');
}

/**
 * The partitions as the system on one of them sees them: that one, a slot of the first medium, is the root, and no
 * other. So each of two systems beside each other has a table of its own. All as the layout says without it.
 */
export function seenFrom(root: string | undefined, media: readonly MachineMedium[]): Nameable[] {
  const [own] = media;
  const nameables = nameablesOf(media);
  if (root === undefined) return nameables;
  return nameables.map((one) => {
    const { slot } = one.placed;
    const isRoot = slot.id === root && one.medium === own;
    if (!isRoot && slot.mount !== '/') return one;
    const { mount: _, ...rest } = slot;
    return { ...one, placed: { ...one.placed, slot: isRoot ? { ...rest, mount: '/' } : rest } };
  });
}

/**
 * The whole table, each line below a comment that says what it is; `root`, a slot of the first medium, where it is
 * that of the system there, whatever the layout mounts at `/`.
 */
export function mountTableText(media: readonly MachineMedium[], root?: string): string {
  const lines = mountLines(media, seenFrom(root, media));
  const rows = inColumns(lines.map(fieldsOf));
  const head = `# Mount table of ${media.map(({ name }) => commentText(name)).join(' and ')}`;
  const body = lines.flatMap((line, i) => [
    '',
    `# ${commentOf(line, media.length > 1)}`,
    ...(line.warning ? [`# ${line.warning}`] : []),
    rows[i]!,
  ]);
  return [head, ...body, ''].join('\n');
}

const WHY_NAMED: Readonly<Record<NamedBy, string>> = {
  UUID: '',
  PARTUUID: ', by the id of the partition: the file system is made later, its id is not known yet',
  LABEL: ', by its label',
  PARTLABEL: ', by the name of the partition',
  'device name': ', by the name of the device',
};

/** What a line is about: the name of the slot, and why it is named as it is where that is not the usual. */
function commentOf({ of, by }: MountLine, withMedium: boolean): string {
  const { mounted, placed, medium } = of;
  const isAsked = by === 'PARTUUID' && mounted?.id !== undefined;
  const where = withMedium ? ` on ${medium.name}` : '';
  return commentText(`${placed.slot.name}${where}${isAsked ? ', by the id of the partition' : WHY_NAMED[by]}`);
}
