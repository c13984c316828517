/** What a real Linux kernel makes of tables of every shape: sector by sector, number by number, id by id. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { oneOf } from '@tests/tier';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import { place } from '@/core/placement/place';
import { isEntered, type Placement } from '@/core/placement/placement';
import { attributeBits, storedName } from '@/core/tables/gpt';
import { writeImage } from '@/files/image-file';
import { type GuestReport, lookAt } from './guest';
import { SHAPES } from './shapes';

let folder: string;
let report: GuestReport;
/** Shapes that this run looks at, by their numbers. */
const chosen = oneOf(4, [...SHAPES.keys()]);
const all = SHAPES.map((one) => place(one));
const placements = chosen.map((i) => all[i]!);

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-shapes-'));
  const disks = [];
  for (const [i, placement] of placements.entries()) {
    const file = path.join(folder, `${i}.img`);
    await writeImage({ placement, path: file, signal: new AbortController().signal, onProgress: () => undefined });
    disks.push({ file, sectorSize: placement.sectorSize });
  }
  report = await lookAt(disks);
});

afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('there are forty, none with a stop, with 0 to 12 logical partitions and every shape of a GPT', () => {
  expect(all).toHaveLength(40);
  expect(all.flatMap((one) => stopsAmong(check(one)).map((stop) => `${one.layout.name}: ${stop.sentence}`))).toEqual(
    [],
  );
  const logicals = new Set(
    all.filter((one) => !one.gpt).map((one) => one.placed.filter(({ recordAt }) => recordAt !== undefined).length),
  );
  expect([...logicals].sort((a, b) => a - b)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12]);
  const tables = all.map(({ layout }) => layout.table);
  for (const key of ['packed', 'containerType', 'entries', 'array', 'hybrid', 'markProtective'])
    expect(tables.filter((table) => key in table).length).toBeGreaterThanOrEqual(2);
  expect(all.filter((one) => one.sectorSize === 4096).length).toBeGreaterThanOrEqual(8);
  expect(all.filter((one) => one.grain.rule === 'cylinders').length).toBeGreaterThanOrEqual(1);
});

/** The partitions that a table holds, as a kernel should say them: start and size in units of 512 bytes. */
function meant({ layout, placed, containers, sectorSize }: Placement) {
  const units = (n: number) => (n * sectorSize) / 512;
  const isMbr = layout.table.kind === 'mbr';
  const entries = placed.filter(isEntered).map(({ slot, entry, start, sectors, recordAt }) => {
    const bits = attributeBits(slot.attributes ?? []);
    const active = slot.active && recordAt === undefined ? '0x80' : undefined;
    return {
      number: entry.number,
      start: units(start),
      size: units(sectors),
      id: entry.id,
      type: isMbr ? `0x${parseInt(entry.type, 16).toString(16)}` : entry.type,
      flags: isMbr ? active : bits === 0n ? undefined : `0x${bits.toString(16)}`,
      ...(!isMbr && { name: storedName(slot.name) }),
    };
  });
  const boxes = containers.map(({ number, type, start }) => ({
    number,
    start: units(start),
    type: `0x${parseInt(type, 16).toString(16)}`,
  }));
  return [...entries, ...boxes].sort((a, b) => a.number - b.number);
}

function seen(i: number, placement: Placement) {
  const boxes = new Set(placement.containers.map((one) => one.number));
  return report.disks[i]!.partitions.map(({ number, start, size, facts }) => ({
    number,
    start,
    // Of a container the kernel shows its first sectors only.
    ...(!boxes.has(number) && { size, id: facts.PART_ENTRY_UUID, flags: facts.PART_ENTRY_FLAGS }),
    type: facts.PART_ENTRY_TYPE,
    ...(placement.gpt && { name: facts.PART_ENTRY_NAME }),
  })).sort((a, b) => a.number - b.number);
}

test.each(chosen.map((n, i) => [`${n}: ${SHAPES[n]!.name}`, i] as const))('%s is what the kernel lists', (_, i) => {
  expect(seen(i, placements[i]!)).toEqual(meant(placements[i]!));
});

test('the kernel log has no complaint about any of them', () => {
  const about = report.log.filter((line) => /vd[a-z]+|GPT|I\/O/.test(line));
  const complaints = about.filter((line) =>
    /error|corrupt|invalid|fail|bogus|truncat|exceed|beyond|warn|alternate|not at the end/i.test(line),
  );
  expect(complaints).toEqual([]);
  expect(about.length).toBeGreaterThanOrEqual(placements.length);
});
