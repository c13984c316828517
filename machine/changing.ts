/** Images that are changed as a person would: surveyed, kept in a layout, edited, and made anew by the plan. */
import { open } from 'node:fs/promises';
import { alteration } from '@/core/change/alter';
import { layoutKeeping } from '@/core/change/keep';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import type { Layout } from '@/core/layout/document';
import { isKept } from '@/core/layout/kept';
import { place } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';
import type { Survey } from '@/core/survey/found';
import { surveyMedium } from '@/core/survey/survey';
import { writeChanged } from '@/files/changed-image';
import { fileSource } from '@/files/file-source';

/** What work in a file asks for, where nobody watches it. */
export const quiet = { signal: new AbortController().signal, onProgress: () => undefined };

/** Id of the slot number `n` of those that keep something. */
export const keptId = (layout: Layout, n: number): string => layout.slots.filter(isKept)[n]!.id;

/** Makes the image `to` of `from` by what `edit` makes of the layout that keeps all of it; gives what was found, and how it lies then. */
export async function changedBy(
  from: string,
  to: string,
  sectorSize: 512 | 4096,
  edit: (layout: Layout) => Layout,
): Promise<{ survey: Survey; placement: Placement }> {
  const handle = await open(from, 'r');
  const source = fileSource(handle, (await handle.stat()).size);
  const survey = await surveyMedium(source, { sectorSize });
  const layout = layoutKeeping(survey, { name: 'Kept', date: '2026-03-01T12:00:00' });
  if (!layout.ok) throw new Error(layout.error);
  const placement = place(edit(layout.value));
  expect(stopsAmong(check(placement)).map(({ sentence }) => sentence)).toEqual([]);
  const plan = await alteration(placement, survey, source);
  if (!plan.ok) throw new Error(plan.error.lines.join('; '));
  await handle.close();
  await writeChanged({ ...quiet, from, plan: plan.value, path: to, temporary: `${to}.part`, isNew: true });
  return { survey, placement };
}
