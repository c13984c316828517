/** What a real Linux kernel makes of tables that were damaged and repaired: the partitions that were built, and not a word. */
import { mkdtempSync, openSync, closeSync, readSync, rmSync, truncateSync, writeSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { repaired } from '@/core/change/repair';
import { checkSurvey } from '@/core/findings/survey/check';
import type { Layout } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import { isEntered } from '@/core/placement/placement';
import { MIB } from '@/core/quantity/units';
import { surveyMedium } from '@/core/survey/survey';
import { writeChanged } from '@/files/changed-image';
import { fileSource } from '@/files/file-source';
import { writeImage } from '@/files/image-file';
import { type GuestDisk, type GuestReport, lookAt } from './guest';

const layout = (sectorSize: 512 | 4096): Layout =>
  layoutOn(
    '64 MiB',
    [fatPart('e', '34 MiB', { variant: sectorSize === 512 ? 32 : 12 }, { role: 'esp' }), part('d', 'rest')],
    {
      table: GPT_TABLE,
      medium: { kind: 'image', capacity: { exact: '64 MiB' }, logicalSector: sectorSize, physicalSector: sectorSize },
    },
  );

type Harm = (file: string, sectorSize: number) => void;

function put(file: string, at: number, bytes: Uint8Array): void {
  const descriptor = openSync(file, 'r+');
  writeSync(descriptor, bytes, 0, bytes.length, at);
  closeSync(descriptor);
}

/** Turns bits of a byte, counted from the start of the medium, or from its end where it is negative. */
const flipped =
  (at: (sectorSize: number) => number): Harm =>
  (file, sectorSize) => {
    const where = at(sectorSize);
    const place = where < 0 ? 64 * MIB + where : where;
    const byte = Buffer.alloc(1);
    const descriptor = openSync(file, 'r');
    readSync(descriptor, byte, 0, 1, place);
    closeSync(descriptor);
    put(file, place, Uint8Array.of(byte[0]! ^ 0x41));
  };

const HARMS: Record<string, Harm> = {
  'the id in the first header': flipped((size) => size + 60),
  'the checksum of the first header': flipped((size) => size + 17),
  'an entry of the first array': flipped((size) => 2 * size + 40),
  'the first header lost': (file, size) => put(file, size, new Uint8Array(size)),
  'the copy of the header': flipped((size) => 60 - size),
  'the copy lost': (file, size) => put(file, 64 * MIB - size, new Uint8Array(size)),
  'the copy of the array': flipped((size) => -5 * size + 9),
  'a larger medium': (file) => truncateSync(file, 90 * MIB),
  'no protective entry': (file) => put(file, 446, new Uint8Array(66)),
};
interface Case {
  readonly name: string;
  readonly sectorSize: 512 | 4096;
  readonly isMended: boolean;
}

/** Each at 512, some at 4096; the last two are left as they are, so that a kernel's word would be seen. */
export const SOME: readonly Case[] = [
  ...Object.keys(HARMS).map((name) => ({ name, sectorSize: 512 as const, isMended: true })),
  ...['the first header lost', 'the copy lost', 'a larger medium'].map((name) => ({
    name,
    sectorSize: 4096 as const,
    isMended: true,
  })),
  { name: 'the copy lost', sectorSize: 512 as const, isMended: false },
  { name: 'the first header lost', sectorSize: 512 as const, isMended: false },
];

/** Every field of a header by the byte at which it begins, in both copies, and entries of both arrays. */
const FIELDS = {
  mark: 0,
  revision: 8,
  length: 12,
  'own checksum': 16,
  place: 24,
  'other place': 32,
  'first sector': 40,
};
for (const [field, at] of Object.entries(FIELDS)) {
  HARMS[`${field} in the first header`] = flipped((size) => size + at);
  HARMS[`${field} in the copy`] = flipped((size) => at - size);
}
HARMS['the second entry of the first array'] = flipped((size) => 2 * size + 128 + 33);
HARMS['the checksum of the first array'] = flipped((size) => size + 88);

/** All of them, at both sector sizes. */
export const ALL: readonly Case[] = [
  ...Object.keys(HARMS).flatMap((name) =>
    ([512, 4096] as const).map((sectorSize) => ({ name, sectorSize, isMended: true })),
  ),
  ...SOME.filter(({ isMended }) => !isMended),
];

/** Declares the tests of some of them. */
export function repairTrips(cases: readonly Case[]): void {
  let folder: string;
  let mended: GuestReport;
  let harmed: GuestReport;

  async function mend(from: string, to: string, sectorSize: 512 | 4096): Promise<void> {
    const handle = await open(from, 'r');
    const { size } = await handle.stat();
    const { draft, tried } = await repaired(
      fileSource(handle, size),
      (source) => surveyMedium(source, { sectorSize }),
      (rule, survey) => checkSurvey(survey).some((one) => one.rule === rule),
    );
    expect(tried.length).toBeGreaterThan(0);
    expect(tried.map(({ refused }) => refused).filter((why) => why !== undefined)).toEqual([]);
    const plan = await draft.plan();
    await handle.close();
    await writeChanged({
      ...{ from, plan, path: to, temporary: `${to}.part`, isNew: true },
      signal: new AbortController().signal,
      onProgress: () => undefined,
    });
  }

  beforeAll(async () => {
    folder = mkdtempSync(path.join(tmpdir(), 'loess-repair-'));
    const disks: Record<'mended' | 'harmed', GuestDisk[]> = { mended: [], harmed: [] };
    for (const [i, { name, sectorSize, isMended }] of cases.entries()) {
      const [file, to] = [path.join(folder, `${i}.img`), path.join(folder, `${i}-mended.img`)];
      const placement = place(layout(sectorSize));
      await writeImage({ placement, path: file, signal: new AbortController().signal, onProgress: () => undefined });
      HARMS[name]!(file, sectorSize);
      if (isMended) await mend(file, to, sectorSize);
      (isMended ? disks.mended : disks.harmed).push({ file: isMended ? to : file, sectorSize });
    }
    mended = await lookAt(disks.mended);
    harmed = await lookAt(disks.harmed);
  });

  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  test.each(cases.filter(({ isMended }) => isMended).map((one, i) => ({ ...one, i })))(
    '$name, sectors of $sectorSize: the kernel sees what was built',
    ({ i, sectorSize }) => {
      const meant = place(layout(sectorSize))
        .placed.filter(isEntered)
        .map(({ start, sectors, entry }) => ({
          number: entry.number,
          start: (start * sectorSize) / 512,
          size: (sectors * sectorSize) / 512,
          id: entry.id,
        }));
      const seen = mended.disks[i]!.partitions.map(({ number, start, size, facts }) => ({
        number,
        start,
        size,
        id: facts.PART_ENTRY_UUID,
      }));
      expect(seen).toEqual(meant);
    },
  );

  test('the kernel says nothing about the tables that were mended, and something about those that were not', () => {
    expect(mended.log.filter((line) => /gpt/i.test(line))).toEqual([]);
    expect(harmed.log.filter((line) => /gpt/i.test(line)).length).toBeGreaterThan(0);
  });
}
