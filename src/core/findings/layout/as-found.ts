/**
 * Findings of a layout that keeps something. What was found is not for this layout to judge: rules about how a partition
 * should lie, be typed or be filled are silent where it stays as it was; and no remedy moves what is kept.
 */
import type { Layout } from '../../layout/document';
import { changesOf, foundOf, isKept, isKeptRaw, isLocked } from '../../layout/kept';
import { deletedKept, disturbed } from '../../layout/locked';
import type { Finding } from './finding';

/** Areas of rules about a partition itself; others speak of the table, of numbers and of what a layout lacks. */
const OF_THE_PARTITION = new Set([
  'place',
  'esp',
  'type',
  'fat',
  'swap',
  'files',
  'board',
  'content',
  'image',
  'machine',
]);

/** Rules about a table or medium that speak of how it was found, as long as it stays so. */
const OF_THE_TABLE = new Set([
  'table/zero-signature',
  'table/raw-range-in-code-area',
  'gpt/zero-disk-id',
  'gpt/array-under-16-kib',
  'gpt/array-moved',
  'gpt/hybrid',
  'gpt/mark-on-protective-entry',
  'medium/image-not-whole-mebibytes',
  'medium/not-whole-sectors',
]);

/** True for a kept partition that lies where it was found, over its own table if that was so. */
function staysInPlace(place: Finding['place'], layout: Layout): boolean {
  const slot = place.kind === 'slot' ? layout.slots.find(({ id }) => id === place.id) : undefined;
  const entry = slot && foundOf(layout, slot);
  if (!slot || !entry || !isKept(slot)) return false;
  return !changesOf(slot, entry, layout).some((one) => one === 'moved' || one.startsWith('made'));
}

function isAsFound({ rule, place }: Finding, layout: Layout): boolean {
  if (OF_THE_TABLE.has(rule)) return layout.found?.table === layout.table.kind;
  if (rule === 'size/outside-the-usable-range' && layout.found?.table === layout.table.kind)
    return staysInPlace(place, layout);
  if (place.kind !== 'slot' || !OF_THE_PARTITION.has(rule.replace(/\/.*/, ''))) return false;
  const slot = layout.slots.find(({ id }) => id === place.id);
  if (!slot || !isLocked(slot)) return false;
  const entry = foundOf(layout, slot);
  if (isKeptRaw(slot)) return true;
  return entry !== undefined && isKept(slot) && !changesOf(slot, entry, layout).some((one) => ALTERS.has(one));
}

/** Changes after which a partition is this layout's to judge. */
const ALTERS: ReadonlySet<string> = new Set(['moved', 'formatted', 'retyped']);

/** Findings of a layout that was made from a medium, without those about what stays as it was found. */
export function beyondFound(findings: readonly Finding[], layout: Layout): readonly Finding[] {
  if (!layout.found) return findings;
  return findings
    .filter((finding) => !isAsFound(finding, layout))
    .map((finding) => {
      if (finding.rule.startsWith('kept/')) return finding;
      const remedies = finding.remedies.filter(
        ({ edit }) => !disturbed(edit, layout) && deletedKept(edit, layout).length === 0,
      );
      return remedies.length === finding.remedies.length ? finding : { ...finding, remedies };
    });
}
