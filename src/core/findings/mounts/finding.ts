/** Findings about a mount table: each knows its place in the text, and where one exists what mends it there. */
import type { Severity } from '../severity';
import type { TableEntry, TableText } from './mount-text';
import { columnOf } from './mount-text';
import type { MountLine, Mounter } from '../../naming/mount-table';
import type { MachineMedium, Nameable } from '../../naming/nameable';
import type { Named } from '../../naming/named';

/** Puts other text in the place of the characters from `from` up to `to` exclusive. */
export interface TextEdit {
  readonly label: string;
  readonly from: number;
  readonly to: number;
  readonly text: string;
}

export interface TableFinding {
  /** The rule that speaks, as in `table/unknown-option`. */
  readonly rule: string;
  readonly severity: Severity;
  /** From 1; what is about the whole table stands at its end. */
  readonly line: number;
  readonly column: number;
  /** Characters that it is about. */
  readonly from: number;
  readonly to: number;
  readonly sentence: string;
  readonly why: string;
  readonly remedies: readonly TextEdit[];
}

/** An entry with what it names. */
export interface CheckedEntry extends TableEntry {
  readonly source: Named;
  /** Partitions of the layouts that its source names. */
  readonly names: readonly Nameable[];
  /** The mount point with its escapes read; undefined where it has none. */
  readonly point: string | undefined;
  readonly type: string | undefined;
  /** The layouts mount another partition there: what is said of this one is said in vain. */
  readonly isElsewhere: boolean;
}

/** What is checked: a table against the media of a machine. */
export interface Checked {
  readonly table: TableText;
  readonly entries: readonly CheckedEntry[];
  readonly media: readonly MachineMedium[];
  readonly nameables: readonly Nameable[];
  /** The partition that the layouts mount at each place; of two the first. */
  readonly places: ReadonlyMap<string, Nameable>;
  readonly mounter: Mounter;
  /** The lines that the layouts would give. */
  readonly wanted: readonly MountLine[];
}

/** A case of a rule: where it is, and what is said. */
export interface Case {
  readonly severity?: Severity;
  readonly entry: TableEntry;
  /** Characters that it is about; the whole line where nothing is said. */
  readonly at?: { readonly from: number; readonly to: number } | undefined;
  readonly sentence: string;
  readonly why: string;
  readonly remedies?: readonly TextEdit[];
}

export interface TableRule {
  readonly id: string;
  readonly severity: Severity;
  readonly find: (checked: Checked) => readonly TableFinding[];
}

/** Declares a rule about a mount table. */
export function tableRule(id: string, severity: Severity, find: (checked: Checked) => readonly Case[]): TableRule {
  return {
    id,
    severity,
    find: (checked) =>
      find(checked).map(({ entry, at = entry, remedies = [], ...said }) => ({
        rule: id,
        severity,
        line: entry.line,
        column: columnOf(entry, at.from),
        from: at.from,
        to: at.to,
        remedies,
        ...said,
      })),
  };
}

/** The place behind the last line of a table: of what is about all of it. */
export function endOf({ text }: TableText): TableEntry {
  const lines = text.split('\n');
  const last = lines[lines.length - 1]!;
  return { line: lines.length, from: text.length - last.length, to: text.length, fields: [] };
}
