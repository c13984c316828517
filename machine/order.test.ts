/** Logical partitions whose numbers did not follow their places: the kernel numbers them by place once they are mended, with what they hold. */
import { closeSync, mkdtempSync, openSync, rmSync, writeSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, layoutOn, part } from '@tests/samples';
import { repaired } from '@/core/change/repair';
import { checkSurvey } from '@/core/findings/survey/check';
import { place } from '@/core/placement/place';
import { isPartition } from '@/core/placement/placement';
import { surveyMedium } from '@/core/survey/survey';
import { writeChanged } from '@/files/changed-image';
import { fileSource } from '@/files/file-source';
import { writeImage } from '@/files/image-file';
import { quiet } from './changing';
import { type GuestReport, lookAt } from './guest';

const LOGICALS = ['x', 'y', 'z'];
const layout = layoutOn('64 MiB', [
  part('a', '8 MiB'),
  ...LOGICALS.map((id) => fatPart(id, '8 MiB', { label: id.toUpperCase(), variant: 12 }, { logical: true })),
]);

/** Links the records of a chain anew by hand: the second, the first, the third. */
function disordered(file: string): void {
  const records = place(layout).placed.flatMap((one) => (isPartition(one) && one.recordAt ? [one] : []));
  const [x, y, z] = records.map(({ recordAt, start, sectors }) => ({ recordAt: recordAt!, start, sectors }));
  const base = x!.recordAt;
  const record = (at: number, one: { start: number; sectors: number }, next?: number) => {
    const bytes = Buffer.alloc(512);
    bytes[446 + 4] = 0x01;
    bytes.writeUInt32LE(one.start - at, 446 + 8);
    bytes.writeUInt32LE(one.sectors, 446 + 12);
    if (next !== undefined) {
      bytes[462 + 4] = 0x05;
      bytes.writeUInt32LE(next - base, 462 + 8);
      bytes.writeUInt32LE(x!.sectors, 462 + 12);
    }
    bytes.writeUInt16LE(0xaa55, 510);
    const out = openSync(file, 'r+');
    writeSync(out, bytes, 0, 512, at * 512);
    closeSync(out);
  };
  // The first record has to be in the first sector of the container, whatever it describes.
  record(base, y!, base + 1);
  record(base + 1, x!, z!.recordAt);
  record(z!.recordAt, z!);
}

let folder: string;
let report: GuestReport;
beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-order-'));
  const [file, mended] = [path.join(folder, 'old.img'), path.join(folder, 'mended.img')];
  await writeImage({ ...quiet, placement: place(layout), path: file });
  disordered(file);
  const handle = await open(file, 'r');
  const source = fileSource(handle, (await handle.stat()).size);
  const { draft, tried } = await repaired(
    source,
    (medium) => surveyMedium(medium, { sectorSize: 512 }),
    (rule, survey) => checkSurvey(survey).some((one) => one.rule === rule),
    ['chain-order'],
  );
  expect(tried.map(({ refused }) => refused)).toEqual([undefined]);
  await writeChanged({
    ...quiet,
    from: file,
    plan: await draft.plan(),
    path: mended,
    temporary: `${mended}.part`,
    isNew: true,
  });
  await handle.close();
  report = await lookAt([
    { file, sectorSize: 512 },
    { file: mended, sectorSize: 512 },
  ]);
});

afterAll(() => rmSync(folder, { recursive: true, force: true }));

const labelsIn = (disk: number) =>
  report.disks[disk]!.partitions.filter(({ number }) => number >= 5).map(({ number, facts }) => [number, facts.LABEL]);

test('the kernel saw them in the order of the chain, and sees them by their places', () => {
  expect(labelsIn(0)).toEqual([
    [5, 'Y'],
    [6, 'X'],
    [7, 'Z'],
  ]);
  expect(labelsIn(1)).toEqual([
    [5, 'X'],
    [6, 'Y'],
    [7, 'Z'],
  ]);
  expect(report.disks[1]!.partitions.filter(({ number }) => number >= 5).map(({ facts }) => facts.mounted)).toEqual(
    LOGICALS.map(() => 'yes'),
  );
});

test('each begins and ends where it did', () => {
  const placesIn = (disk: number) =>
    report.disks[disk]!.partitions.filter(({ number }) => number >= 5)
      .map(({ start, size }) => [start, size])
      .sort((a, b) => a[0]! - b[0]!);
  expect(placesIn(1)).toEqual(placesIn(0));
});
