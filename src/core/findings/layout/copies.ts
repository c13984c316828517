/** What is found in a copy of a series. */
import type { Contents } from '../../filesystems/supplied';
import type { Layout } from '../../layout/document';
import { copyOf } from '../../layout/series';
import { placeWritten } from '../../naming/written';
import type { Placement } from '../../placement/placement';
import { check } from './check';
import { type Finding, stopsAmong } from './finding';

/**
 * Copy `copy` of a layout, placed, and what is found: all that is found in the layout itself, where risks were
 * accepted in sentences that name its ids, and the stops of the copy. Supplied files go on naming the ids of the
 * layout: that is told of all copies at once (`sameInEveryCopy`), and stands in the way of none. `own` is what was
 * found in the layout, where that is known already.
 */
export function checkedCopy(
  layout: Layout,
  copy: number,
  contents: Contents,
  own?: readonly Finding[],
): { readonly placement: Placement; readonly findings: readonly Finding[] } {
  if (copy === 0) {
    const placement = placeWritten(layout, contents);
    return { placement, findings: own ?? check(placement) };
  }
  const findings = own ?? check(placeWritten(layout, contents));
  const placement = placeWritten(copyOf(layout, copy), contents);
  return { placement, findings: [...findings, ...stopsAmong(check(placement))] };
}
