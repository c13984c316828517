/**
 * Images that nobody here made, out of Debian packages: boot media of a memory tester, a network boot loader and a rescue
 * loader. What keeps all of one writes nothing; where one partition goes and another comes, the rest stays to the byte, and
 * a kernel agrees about the table.
 */
import { createHash } from 'node:crypto';
import { cpSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart } from '@tests/samples';
import { alteration } from '@/core/change/alter';
import { layoutKeeping } from '@/core/change/keep';
import type { Plan } from '@/core/change/plan';
import { plannedEnd } from '@/core/change/plan';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import type { Layout } from '@/core/layout/document';
import { isKept } from '@/core/layout/kept';
import { place } from '@/core/placement/place';
import { isPartition, type Placement } from '@/core/placement/placement';
import { surveyFitting, surveyMedium } from '@/core/survey/survey';
import { writeChanged } from '@/files/changed-image';
import { fileSource } from '@/files/file-source';
import { lookAt } from './guest';
import { filesNamed, unpacked } from './packages';

/** Packages with images, and how the images in them end. */
const PACKAGES = [
  ['memory-tester', 'memtest86+', /\.iso$/],
  ['network-loader', 'ipxe', /\.iso$/],
  ['rescue-loader', 'grub-rescue-pc', /\.(iso|img)$/],
] as const;

const quiet = { signal: new AbortController().signal, onProgress: () => undefined };
const sumOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

/** An image with the layout that keeps all of it, and what a change of that would write. */
async function planned(file: string, edit: (layout: Layout) => Layout): Promise<{ placement: Placement; plan: Plan }> {
  const handle = await open(file, 'r');
  const source = fileSource(handle, (await handle.stat()).size);
  const survey = await surveyFitting((sectorSize) => surveyMedium(source, { sectorSize }));
  expect(survey.sectorSize).toBe(512);
  const kept = layoutKeeping(survey, { name: 'Kept', date: '2026-03-01T12:00:00' });
  if (!kept.ok) throw new Error(kept.error);
  const placement = place(edit(kept.value));
  expect(stopsAmong(check(placement)).map(({ sentence }) => sentence)).toEqual([]);
  const plan = await alteration(placement, survey, source);
  await handle.close();
  if (!plan.ok) throw new Error(plan.error.lines.join('; '));
  return { placement, plan: plan.value };
}

let folder: string;
let files: string[];

beforeAll(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-found-'));
  files = PACKAGES.flatMap(([cache, name, ending]) =>
    filesNamed(unpacked(cache, name), (file) => ending.test(file)).sort(),
  ).map((file, i) => {
    const copy = path.join(folder, `${i}-${path.basename(file)}`);
    cpSync(file, copy, { dereference: true });
    return copy;
  });
});

afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('of every one of them all is kept, nothing is written, and the new image is the old one', async () => {
  expect(files.length).toBeGreaterThanOrEqual(5);
  for (const file of files) {
    const { plan } = await planned(file, (layout) => layout);
    expect([path.basename(file), plan.ranges]).toEqual([path.basename(file), []]);
    await writeChanged({ ...quiet, from: file, plan, path: `${file}.same`, temporary: `${file}.part`, isNew: true });
    expect(sumOf(readFileSync(`${file}.same`))).toBe(sumOf(readFileSync(file)));
  }
});

test('one partition goes and another comes: the rest stays to the byte, and a kernel sees the table that is meant', async () => {
  const made: { file: string; placement: Placement }[] = [];
  for (const file of files) {
    // Those whose one partition is all of the medium, its table included, have no place for another one.
    const { placement: all } = await planned(file, (layout) => layout);
    const goes = all.placed.filter(isPartition).find(({ slot, start }) => isKept(slot) && start > 2048);
    if (!goes) continue;
    const { placement, plan } = await planned(file, (layout) => ({
      ...layout,
      slots: layout.slots.map((slot) =>
        slot.id === goes.slot.id
          ? fatPart('n', `${goes.sectors} sectors`, { variant: 12, label: 'NEW' }, { at: `${goes.start} sectors` })
          : slot,
      ),
    }));
    const to = `${file}.new`;
    await writeChanged({ ...quiet, from: file, plan, path: to, temporary: `${file}.part`, isNew: true });
    const [before, after] = [readFileSync(file), readFileSync(to)];
    let at = 0;
    for (const { extent } of plan.ranges) {
      expect(after.subarray(at, extent.offset).equals(before.subarray(at, extent.offset))).toBe(true);
      at = plannedEnd(extent);
    }
    expect(after.subarray(at).equals(before.subarray(at))).toBe(true);
    made.push({ file: to, placement });
  }
  expect(made.length).toBeGreaterThanOrEqual(2);
  const report = await lookAt(made.map(({ file }) => ({ file, sectorSize: 512 as const })));
  made.forEach(({ placement }, i) => {
    const meant = placement.placed
      .filter(isPartition)
      .map(({ start, sectors, entry }) => [entry!.number, start, sectors]);
    const seen = report.disks[i]!.partitions.filter(({ facts }) => facts.LABEL === 'NEW' || facts.PART_ENTRY_NUMBER);
    for (const one of meant) expect(seen.map(({ number, start, size }) => [number, start, size])).toContainEqual(one);
    const fresh = report.disks[i]!.partitions.find(({ facts }) => facts.LABEL === 'NEW')!;
    expect([fresh.facts.TYPE, fresh.facts.mounted]).toEqual(['vfat', 'yes']);
  });
});
