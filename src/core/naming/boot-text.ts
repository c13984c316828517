/**
 * Boot entries as text: the Boot Loader Specification (Type #1, one entry a file), `extlinux.conf`, and a file that
 * holds a command line alone. Every value knows its line and column, so that what is found can be shown there.
 */
import { distance } from 'fastest-levenshtein';
import type { NamingForm } from './naming-files';

export interface Said {
  readonly text: string;
  /** Both from 1. */
  readonly line: number;
  readonly column: number;
}

/** One way to start, as a file says it. */
export interface SaidEntry {
  /** Title or label; empty where it has none. */
  readonly name: string;
  readonly line: number;
  readonly kernels: readonly Said[];
  readonly ramDisks: readonly Said[];
  readonly deviceTrees: readonly Said[];
  /** A folder of device trees, from which the firmware takes the one of its board. */
  readonly deviceTreeFolders: readonly Said[];
  /** Words of the command line. */
  readonly words: readonly Said[];
}

export interface BootText {
  readonly entries: readonly SaidEntry[];
  /** Words that begin a line and that nobody knows, with the known one that is nearest. */
  readonly unknown: readonly (Said & { readonly nearest: string | undefined })[];
}

type Part = 'name' | 'kernels' | 'ramDisks' | 'deviceTrees' | 'deviceTreeFolders' | 'words' | 'label' | 'other';

/** Keys of the specification, and what each of them says. */
const SPECIFIED: Readonly<Record<string, Part>> = {
  title: 'name',
  linux: 'kernels',
  efi: 'kernels',
  uki: 'kernels',
  'uki-url': 'kernels',
  initrd: 'ramDisks',
  options: 'words',
  devicetree: 'deviceTrees',
  'devicetree-overlay': 'deviceTrees',
  version: 'other',
  'machine-id': 'other',
  'sort-key': 'other',
  architecture: 'other',
  profile: 'other',
  extra: 'other',
};

/** Words of `extlinux.conf`, in lower case: they are read in any. */
const OF_BOARDS: Readonly<Record<string, Part>> = {
  label: 'label',
  linux: 'kernels',
  kernel: 'kernels',
  fit: 'kernels',
  initrd: 'ramDisks',
  append: 'words',
  fdt: 'deviceTrees',
  devicetree: 'deviceTrees',
  fdtoverlays: 'deviceTrees',
  'devicetree-overlay': 'deviceTrees',
  fdtdir: 'deviceTreeFolders',
  devicetreedir: 'deviceTreeFolders',
  default: 'other',
  timeout: 'other',
  totaltimeout: 'other',
  prompt: 'other',
  menu: 'other',
  ontimeout: 'other',
  localboot: 'other',
  localcmd: 'other',
  fallback: 'other',
  ipappend: 'other',
  include: 'other',
  background: 'other',
  kaslrseed: 'other',
  say: 'other',
  display: 'other',
};

/** Parts whose value is a list with blanks between. */
const LISTS: readonly Part[] = ['words', 'deviceTrees'];

/** A key is taken for a mistyped one when it differs in so many characters. */
const NEAR = 2;

function nearestOf(key: string, known: readonly string[]): string | undefined {
  const [first] = known
    .map((one) => ({ one, far: distance(key, one) }))
    .filter(({ far }) => far <= NEAR)
    .sort((a, b) => a.far - b.far);
  return first?.one;
}

/** Words with blanks between them; quotes hold blanks together, as the kernel reads its command line. */
export function wordsIn(text: string, line: number, column: number): Said[] {
  return [...text.matchAll(/(?:"[^"]*"?|[^\s"])+/g)].map((match) => ({
    text: match[0],
    line,
    column: column + match.index,
  }));
}

type Draft = { -readonly [Key in keyof SaidEntry]: SaidEntry[Key] extends readonly Said[] ? Said[] : SaidEntry[Key] };

const draft = (name: string, line: number): Draft => ({
  name,
  line,
  kernels: [],
  ramDisks: [],
  deviceTrees: [],
  deviceTreeFolders: [],
  words: [],
});

/** Reads lines of a key and a value each; `label` begins an entry. */
function readKeyed(text: string, keys: Readonly<Record<string, Part>>, isOfBoards: boolean): BootText {
  const entries: Draft[] = [];
  const unknown: (Said & { nearest: string | undefined })[] = [];
  text.split(/\r?\n/).forEach((content, index) => {
    const line = index + 1;
    const match = /^(\s*)([^\s#]\S*)(?:(\s+)([^]*))?$/.exec(content.trimEnd());
    if (!match) return;
    const [, blanks = '', key = '', gap = '', value = ''] = match;
    const name = isOfBoards ? key.toLowerCase() : key;
    const said: Said = { text: value, line, column: blanks.length + key.length + gap.length + 1 };
    const part = Object.hasOwn(keys, name) ? keys[name]! : undefined;
    if (part === undefined) {
      unknown.push({ text: key, line, column: blanks.length + 1, nearest: nearestOf(name, Object.keys(keys)) });
      return;
    }
    if (part === 'label' || (!isOfBoards && entries.length === 0)) entries.push(draft(isOfBoards ? value : '', line));
    const entry = entries.at(-1);
    if (!entry || part === 'other' || part === 'label' || value === '') return;
    if (part === 'name') entry.name = value;
    else if (LISTS.includes(part)) entry[part].push(...wordsIn(value, line, said.column));
    else entry[part].push(said);
  });
  return { entries, unknown };
}

/** Reads a file with boot entries of this form. */
export function readBootText(text: string, form: Exclude<NamingForm, 'mount table'>): BootText {
  if (form === 'boot entry') return readKeyed(text, SPECIFIED, false);
  if (form === 'board entries') return readKeyed(text, OF_BOARDS, true);
  const [first = ''] = text.split(/\r?\n/);
  const words = wordsIn(first, 1, 1);
  return { entries: words.length > 0 ? [{ ...draft('', 1), words }] : [], unknown: [] };
}
