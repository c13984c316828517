/**
 * Why a survey of a build may find something: because the layout says so, and its own findings
 * told of it, or because of what was supplied. What is not explained here is a fault.
 */
import type { Finding } from '@/core/findings/layout/finding';
import type { SurveyFinding } from '@/core/findings/survey/finding';
import { isPartition, type Placement } from '@/core/placement/placement';
import type { Survey } from '@/core/survey/found';

/** Findings about surveys, and the findings about layouts that told of the same thing before: about the slot, or the table. */
const TOLD: Readonly<Record<string, readonly string[]>> = {
  'found-table/more-than-one-active': ['table/two-active'],
  'found-table/zero-signature': ['table/zero-signature'],
  'found-gpt/zero-disk-id': ['gpt/zero-disk-id'],
  'found-gpt/hybrid': ['gpt/hybrid'],
  'found-gpt/protective-entry-active': ['gpt/mark-on-protective-entry'],
  'found-gpt/array-under-16-kib': ['gpt/array-under-16-kib'],
  'found-place/type-disagrees-with-content': ['type/disagrees-with-content', 'esp/not-fat'],
  'found-place/esp-not-fat': ['esp/not-fat'],
  'found-fat/near-the-border': ['fat/near-the-border'],
  'found-fat/clusters-over-32-kib': ['fat/clusters-of-64-kib'],
};

/** What is between partitions is cleared at both ends only: old bytes may be left, and are told. */
const OLD_BYTES = ['found-place/data-between-partitions', 'found-place/leftover'];

const NOTHING = ['found-table/no-table-and-no-volume', 'found-table/odd-status', 'found-table/no-entry-on-the-medium'];

/** Whether a finding about the survey of a build follows from the layout. */
export function explained(
  { rule, place }: SurveyFinding,
  placement: Placement,
  findings: readonly Finding[],
  survey: Survey,
): boolean {
  if (OLD_BYTES.includes(rule)) return true;
  // Of a large ext with small blocks a survey looks at some of its groups only, and says so.
  if (rule === 'found-ext/looked-at-in-part')
    return survey.partitions.some(
      ({ key, sectors }) =>
        place.kind === 'partition' && place.key === key && sectors * survey.sectorSize > 16 * 2 ** 30,
    );
  if (placement.layout.table.kind === 'none') {
    // Without a table and without a volume, because the layout has neither; or a file that may be anything.
    const [only] = placement.layout.slots;
    if (NOTHING.includes(rule) || (only?.kind === 'partition' && only.content?.kind === 'file')) return true;
  }
  const found = place.kind === 'partition' ? survey.partitions.find(({ key }) => key === place.key) : undefined;
  const slot = found && placement.placed.filter(isPartition).find((one) => one.start === found.start)?.slot;
  // What is wrong inside a supplied image was there before.
  if (slot?.content && 'sha256' in slot.content) return true;
  const isAbout = (one: Finding) => slot === undefined || one.place.kind !== 'slot' || one.place.id === slot.id;
  return findings.some((one) => TOLD[rule]?.includes(one.rule) === true && isAbout(one));
}
