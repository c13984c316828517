/** Findings about mount tables in the files of slots: each is checked as one that is pasted. */
import { counted } from '../../quantity/units';
import { checkTable, readAgainst } from '../mounts/check';
import type { TableFinding } from '../mounts/finding';
import { atSlot, type Occurrence, once, rule, type Rule } from './finding';
import { insteadOf, startFiles, whereIn } from './start-files';

/** The mount tables in files, read against the layout: asked for by two rules. */
const tablesOf = once((placement) =>
  startFiles(placement).flatMap((file) => {
    if (file.form !== 'mount table' || file.text === undefined) return [];
    const media = [{ name: placement.layout.name, placement }];
    const { slot } = file.one;
    // The system on a slot that is mounted nowhere sees itself as the root.
    const checked = readAgainst(file.text, media, slot.mount === undefined ? slot.id : undefined);
    return [{ file, media, checked }];
  }),
);

const emptyTable = rule('mounts/nothing', 'note', (placement) =>
  tablesOf(placement)
    .filter(({ checked }) => checked.entries.length === 0)
    .map(({ file }) => ({
      place: atSlot(file.one.slot.id),
      sentence: `“${file.path}” of ${file.one.slot.name} mounts nothing.`,
      why: 'The system starts, if at all, with its root alone.',
      ...insteadOf(file, placement),
    })),
);

/** One finding for each rule about tables that speaks in a file: the first place is told, the others counted. */
const table = rule('mounts/table', 'risk', (placement) =>
  tablesOf(placement).flatMap(({ file, media, checked }): Occurrence[] => {
    if (checked.entries.length === 0) return [];
    const { findings } = checkTable(file.text!, media, checked);
    const byRule = new Map<string, TableFinding[]>();
    for (const one of findings) byRule.set(one.rule, [...(byRule.get(one.rule) ?? []), one]);
    return [...byRule.values()].map(([first, ...others]): Occurrence => {
      const { severity, line, column, sentence, why } = first!;
      const more = others.length > 0 ? ` ${counted(others.length, 'other place')} of the table likewise.` : '';
      return {
        place: atSlot(file.one.slot.id),
        // The bytes can be made whatever a file says: a person may take the risk.
        severity: severity === 'note' ? 'note' : 'risk',
        sentence: `${whereIn(file, line, column)}: ${sentence}${more}`,
        why,
        ...insteadOf(file, placement),
      };
    });
  }),
);

export const MOUNTS_RULES: readonly Rule[] = [emptyTable, table];
