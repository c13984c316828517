/** Use case: what a build of a layout would write, computed where its contents are. */
import type { BuildPlan, Portion } from '@/contract/builds';
import { lengthOf } from '@/core/bytes/extents';
import { compose } from '@/core/compose/compose';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import type { Layout } from '@/core/layout/document';
import { placeWritten } from '@/core/naming/written';
import type { Placement } from '@/core/placement/placement';
import type { Context } from './context';
import { contentsFor } from '../files/stored';

function portionsOf(placement: Placement): Portion[] {
  const portions = new Map<string | undefined, { name: string; ranges: number; written: number; zeros: number }>();
  for (const { owner, extent } of compose(placement)) {
    const name = placement.layout.slots.find((slot) => slot.id === owner)?.name ?? 'Table and ends of the medium';
    const portion = portions.get(owner) ?? { name, ranges: 0, written: 0, zeros: 0 };
    portion.ranges += 1;
    if ('zeros' in extent) portion.zeros += extent.zeros;
    else portion.written += lengthOf(extent);
    portions.set(owner, portion);
  }
  return [...portions.values()];
}

/** Findings and portions of a document. */
export async function planBuild(context: Context, document: Layout): Promise<BuildPlan> {
  const placement = placeWritten(document, await contentsFor(context.folder.store, document));
  const findings = check(placement);
  return { findings, portions: stopsAmong(findings).length > 0 ? [] : portionsOf(placement) };
}
