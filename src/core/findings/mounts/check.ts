/** Checks a mount table against the layouts of a machine. */
import { byGravity } from '../severity';
import { readTable } from './mount-text';
import { mounterOf, mountLines, seenFrom } from '../../naming/mount-table';
import type { MachineMedium, Nameable } from '../../naming/nameable';
import type { Checked, CheckedEntry, TableFinding, TableRule, TextEdit } from './finding';
import { FORM_RULES } from './form';
import { namedIn, Names } from '../../naming/named';
import { OPTION_RULES } from './options';
import { SOURCE_RULES } from './sources';
import { TOGETHER_RULES } from './together';

export const TABLE_RULES: readonly TableRule[] = [...FORM_RULES, ...SOURCE_RULES, ...OPTION_RULES, ...TOGETHER_RULES];

/** More findings than these are counted, and not told one by one. */
export const TABLE_FINDINGS_LIMIT = 1000;

export interface TableCheck {
  readonly findings: readonly TableFinding[];
  /** Findings beyond those that are told. */
  readonly more: number;
  readonly entries: readonly CheckedEntry[];
}

/** A table with what its lines name in the layouts; `root` as for a table that is written. */
export function readAgainst(text: string, media: readonly MachineMedium[], root?: string): Checked {
  const table = readTable(text);
  const nameables = seenFrom(root, media);
  const names = new Names(nameables);
  const places = new Map<string, Nameable>();
  for (const one of nameables) {
    const { mount } = one.placed.slot;
    if (mount !== undefined && !places.has(mount)) places.set(mount, one);
  }
  const entries = table.entries.map((entry): CheckedEntry => {
    const source = namedIn(entry.fields[0]!.value);
    const [named, point] = [names.named(source), entry.fields[1]?.value];
    const meant = point === undefined ? undefined : places.get(point);
    return {
      ...entry,
      source,
      names: named,
      point,
      type: entry.fields[2]?.value,
      isElsewhere: named.length === 1 && meant !== undefined && meant !== named[0],
    };
  });
  return { table, entries, media, nameables, places, mounter: mounterOf(media), wanted: mountLines(media, nameables) };
}

/** All findings, the gravest first, those of one severity in the order of the lines. */
export function checkTable(
  text: string,
  media: readonly MachineMedium[],
  checked = readAgainst(text, media),
): TableCheck {
  const found = TABLE_RULES.flatMap(({ find }) => find(checked));
  const sorted = byGravity([...found].sort((a, b) => a.from - b.from));
  return {
    findings: sorted.slice(0, TABLE_FINDINGS_LIMIT),
    more: Math.max(0, sorted.length - TABLE_FINDINGS_LIMIT),
    entries: checked.entries,
  };
}

/** The text with a remedy applied. */
export function mended(text: string, { from, to, text: by }: TextEdit): string {
  return text.slice(0, from) + by + text.slice(to);
}
