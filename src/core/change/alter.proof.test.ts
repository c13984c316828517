/** Any medium, kept and edited in any way: what is kept stays to the byte, the table is right, and nothing else is written. */
import fc from 'fast-check';
import { acted, anyActs, anyMedium, mediumOf } from '@tests/any/kept';
import { tablesByTheBook } from '@tests/tables-by-the-book';
import { cases } from '@tests/tier';
import { checkExt } from '../filesystems/ext/check/check';
import { check } from '../findings/layout/check';
import { checkSurvey } from '../findings/survey/check';
import { stopsAmong } from '../findings/layout/finding';
import { foundOf, isKept, keepsInside } from '../layout/kept';
import { validateLayout } from '../layout/validate';
import { place } from '../placement/place';
import { isPartition } from '../placement/placement';
import { surveyMedium } from '../survey/survey';
import { alteration } from './alter';
import { layoutKeeping } from './keep';
import { changedSource, plannedBytes, plannedEnd, plannedLength } from './plan';

const KEEP = { name: 'Kept', date: '2026-03-01T12:00:00' };

test('any medium keeps what is kept, and gets the table and the contents that are meant', async () => {
  const seen = { kept: 0, changed: 0, moved: 0, converted: 0, stopped: 0, refused: 0 };
  await fc.assert(
    fc.asyncProperty(anyMedium, anyActs, async (any, acts) => {
      const source = mediumOf(any);
      if (!source) return;
      const sectorSize = any.large ? 4096 : 512;
      const survey = await surveyMedium(source, { sectorSize });
      const kept = layoutKeeping(survey, KEEP);
      if (!kept.ok) throw new Error(kept.error);
      const valid = validateLayout(JSON.parse(JSON.stringify(kept.value)));
      if (!valid.ok) throw new Error(JSON.stringify(valid.error));
      const untouched = place(valid.value);
      expect(stopsAmong(check(untouched)).map(({ sentence }) => sentence)).toEqual([]);
      const nothing = await alteration(untouched, survey, source);
      expect(nothing).toEqual({ ok: true, value: { size: source.size, becomes: source.size, ranges: [] } });
      seen.kept += 1;

      const edited = validateLayout(JSON.parse(JSON.stringify(acted(valid.value, acts))));
      if (!edited.ok) throw new Error(JSON.stringify(edited.error));
      const placement = place(edited.value);
      if (stopsAmong(check(placement)).length > 0) {
        seen.stopped += 1;
        return;
      }
      const plan = await alteration(placement, survey, source);
      if (!plan.ok) {
        // Only what does not fit when it is laid anew is refused.
        expect(plan.error.isOther).toBe(false);
        for (const line of plan.error.lines) expect(line).toMatch(/cannot be laid anew: .* do not hold it/);
        seen.refused += 1;
        return;
      }
      if (plan.value.ranges.length > 0) seen.changed += 1;
      if (edited.value.table.kind !== survey.table) seen.converted += 1;

      // Ranges ascend, lie within the medium, and touch nothing of what stays where it is.
      let end = 0;
      const stays = placement.placed.filter((one) => {
        const was = foundOf(placement.layout, one.slot);
        return keepsInside(one.slot) && !one.slot.repack && was?.at === one.start;
      });
      for (const { extent } of plan.value.ranges) {
        expect(extent.offset).toBeGreaterThanOrEqual(end);
        end = plannedEnd(extent);
        for (const { span } of stays)
          expect(extent.offset < span.end && end > span.start ? [extent.offset, end, span] : []).toEqual([]);
      }
      expect(end).toBeLessThanOrEqual(source.size);

      // A second reader of tables sees what is meant.
      const after = changedSource(source, plan.value);
      const book = await tablesByTheBook(after, sectorSize, false);
      const meant = placement.placed.filter(isPartition).map(({ entry, start, sectors }) => ({
        number: entry?.number ?? 0,
        start,
        sectors,
        type: entry?.type ?? '',
      }));
      const found = book.partitions.map(({ number, start, sectors, type }) => ({ number, start, sectors, type }));
      const byNumber = (a: { number: number }, b: { number: number }) => a.number - b.number;
      expect(found.toSorted(byNumber)).toEqual(meant.toSorted(byNumber));

      // What moved is there, but for the corrected headers; what is new is recognised; the survey finds no stop.
      const again = await surveyMedium(after, { sectorSize });
      // What was cut off on purpose is told afterwards too.
      const stops = checkSurvey(again).filter(({ severity }) => severity === 'stop');
      expect(stops.filter(({ rule }) => !/(longer|larger)-than-its-place$/.test(rule))).toEqual([]);
      for (const { slot, start, sectors } of placement.placed) {
        const was = foundOf(placement.layout, slot);
        const inside = again.partitions.find((one) => one.start === start && one.kind !== 'container')?.inside;
        if (was && isKept(slot) && keepsInside(slot) && was.at !== start) {
          seen.moved += 1;
          if (was.inside?.kind.startsWith('FAT')) expect(inside?.kind).toBe('fat');
          if (was.inside?.kind === 'exFAT')
            expect(inside).toMatchObject({ exfat: { partitionOffset: start, regionSound: true, copySound: true } });
        }
        if (was && isKept(slot) && slot.repack) {
          const { faults } = await checkExt(after, start * sectorSize, sectors * sectorSize);
          expect(faults).toEqual([]);
        }
        if (slot.kind === 'partition' && slot.content?.kind === 'fat') expect(inside?.kind).toBe('fat');
      }
      for (const { extent } of plan.value.ranges)
        if ('bytes' in extent)
          expect(
            Buffer.compare(await after.read(extent.offset, plannedLength(extent)), await plannedBytes(extent, source)),
          ).toBe(0);
    }),
    { numRuns: cases(250, 1500) },
  );
  expect(seen.kept).toBeGreaterThan(cases(80, 500));
  expect(seen.changed).toBeGreaterThan(cases(25, 150));
  expect(seen.moved).toBeGreaterThan(cases(0, 5));
  expect(seen.converted).toBeGreaterThan(cases(3, 20));
});
