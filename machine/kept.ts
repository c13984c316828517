/**
 * Round trips with a real Linux kernel: a medium is built, the kernel writes into every volume of it, it is surveyed, kept
 * and changed; then the kernel finds in every kept volume what it wrote, with the number, id and name that it had, and says
 * nothing.
 */
import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { check } from '@/core/findings/layout/check';
import { stopsAmong } from '@/core/findings/layout/finding';
import { deleting, moving, renewing, resizing } from '@/core/layout/acts';
import type { Layout, Slot } from '@/core/layout/document';
import { applyEdit, type Edit } from '@/core/layout/edits';
import { keepsInside } from '@/core/layout/kept';
import { translation } from '@/core/layout/translate';
import { place } from '@/core/placement/place';
import { isPartition, type Placement } from '@/core/placement/placement';
import { MIB } from '@/core/quantity/units';
import type { Survey } from '@/core/survey/found';
import { writeImage } from '@/files/image-file';
import { changedBy, keptId, quiet } from './changing';
import { type GuestDisk, type GuestReport, lookAt, type SeenPartition } from './guest';

const TABLES = ['gpt', 'mbr', 'chain'] as const;
const ACTS = ['keep', 'delete and add', 'convert', 'there and back', 'move', 'larger', 'anew'] as const;
/** Every table, sector size and act. */
export const ALL = TABLES.flatMap((table) =>
  ([512, 4096] as const).flatMap((sectorSize) => ACTS.map((act) => ({ table, sectorSize, act }))),
);
type Case = (typeof ALL)[number];

function built({ table, sectorSize }: Case): Layout {
  const logical = table === 'chain' ? { logical: true as const } : {};
  const slots: Slot[] = [
    fatPart('a', '12 MiB', { label: 'TIDES', variant: sectorSize === 512 ? 16 : 12 }, { name: 'Tides' }),
    part('b', '14 MiB', {
      name: 'Gauges',
      ...logical,
      content: { kind: 'ext', version: 'ext4', label: 'GAUGES', uuid: '7a1d0000-616d-4c0a-8d05-0000000000b1' },
    }),
    part('c', '8 MiB', {
      name: 'Buoys',
      ...logical,
      content: { kind: 'exfat', volumeId: '7A1D-00C1', label: 'BUOYS' },
    }),
  ];
  return layoutOn('72 MiB', slots, {
    ...(table === 'gpt' ? { table: GPT_TABLE } : {}),
    medium: { kind: 'image', capacity: { exact: '72 MiB' }, logicalSector: sectorSize, physicalSector: sectorSize },
  });
}

const done = (act: { readonly ok: boolean; readonly value?: { readonly edit: Edit } }): Edit => act.value!.edit;

/** What is done to the layout that keeps all; what is done twice has two steps. */
function edited(layout: Layout, { act, sectorSize }: Case): Layout {
  const sectors = (mebibytes: number) => (mebibytes * MIB) / sectorSize;
  const apply = (edit: Edit) => applyEdit(layout, edit);
  switch (act) {
    case 'keep':
      return layout;
    case 'delete and add': {
      const without = apply(deleting(layout, keptId(layout, 0))!.edit);
      const slot = fatPart('n', '20 MiB', { variant: sectorSize === 512 ? 16 : 12, label: 'NEW' }, { name: 'New' });
      return applyEdit(without, { do: 'add slot', slot, index: without.slots.length });
    }
    case 'convert':
    case 'there and back':
      return apply(translation(layout, layout.table.kind === 'gpt' ? 'mbr' : 'gpt').edit);
    case 'move':
      return apply(done(moving(layout, keptId(layout, 2), sectors(50))));
    case 'larger':
      return apply(done(resizing(layout, keptId(layout, 2), sectors(14))));
    case 'anew':
      return apply(renewing(layout, keptId(layout, 1), 'ext')!.edit);
  }
}

const change = (from: string, to: string, one: Case) =>
  changedBy(from, to, one.sectorSize, (layout) => edited(layout, one));

/** Declares the tests of some of them. */
export function roundTrips(cases: readonly Case[]): void {
  let folder: string;
  let report: GuestReport;
  let order: string[] = [];
  const changes: { survey: Survey; placement: Placement }[] = [];

  beforeAll(async () => {
    folder = mkdtempSync(path.join(tmpdir(), 'loess-kept-'));
    const file = (name: string, i: number) => path.join(folder, `${name}-${i}.img`);
    // The kernel writes once into each medium that is built; those of the same shape are copies of it.
    const shapes = new Map<string, string>();
    const disks: GuestDisk[] = [];
    for (const one of cases) {
      const shape = `${one.table}-${one.sectorSize}`;
      if (shapes.has(shape)) continue;
      const path = file(shape, 0);
      const placement = place(built(one));
      expect(stopsAmong(check(placement))).toEqual([]);
      await writeImage({ ...quiet, placement, path });
      shapes.set(shape, path);
      disks.push({ file: path, sectorSize: one.sectorSize, keeps: true, work: 'u' });
    }
    await lookAt(disks);
    const looked: GuestDisk[] = disks.map(({ file, sectorSize }) => ({ file, sectorSize }));
    for (const [i, one] of cases.entries()) {
      const from = shapes.get(`${one.table}-${one.sectorSize}`)!;
      cpSync(from, file('old', i));
      const to = file('new', i);
      changes.push(await change(file('old', i), to, one));
      if (one.act === 'there and back') {
        cpSync(to, file('half', i));
        changes[i]!.placement = (await change(file('half', i), file('back', i), { ...one, act: 'convert' })).placement;
      }
      looked.push({ file: one.act === 'there and back' ? file('back', i) : to, sectorSize: one.sectorSize });
    }
    report = await lookAt(looked);
    order = [...shapes.keys()];
  });

  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  /** What was in a volume: names, contents, and how they are kept. */
  const FACTS = ['TYPE', 'UUID', 'LABEL', 'tree', 'stats', 'found', 'new-sum', 'new-entries'] as const;
  const inside = ({ facts }: SeenPartition) => FACTS.map((name) => facts[name]);

  test.each(cases.map((one, i) => ({ ...one, i })))(
    '$table, sectors of $sectorSize, $act: what is kept is as the kernel left it',
    ({ i, table, sectorSize, act }) => {
      const before = report.disks[order.indexOf(`${table}-${sectorSize}`)]!;
      const after = report.disks[order.length + i]!;
      const { placement, survey } = changes[i]!;
      const unit = sectorSize / 512;
      const partitions = placement.placed.filter(isPartition);
      const isConverted = act === 'convert' || act === 'there and back';
      let seen = 0;
      for (const { slot, start, sectors, entry } of partitions) {
        const now = after.partitions.find((one) => one.start === start * unit)!;
        expect([now.number, now.size]).toEqual([entry!.number, sectors * unit]);
        if (!keepsInside(slot)) {
          expect(now.facts.mounted).toBe('yes');
          continue;
        }
        const content = slot.name;
        const then = before.partitions.find((one) => inside(one)[1] === now.facts.UUID)!;
        expect([content, ...inside(now)]).toEqual([content, ...inside(then)]);
        expect(now.facts.mounted).toBe('yes');
        if (!isConverted && table === 'gpt') {
          const told = ['PART_ENTRY_UUID', 'PART_ENTRY_NAME', 'PART_ENTRY_TYPE', 'PART_ENTRY_NUMBER'] as const;
          expect(told.map((name) => now.facts[name])).toEqual(told.map((name) => then.facts[name]));
        }
        seen += 1;
      }
      expect(seen).toBeGreaterThanOrEqual(2);
      // A container is a partition of a kernel too.
      const boxes = after.partitions.filter(
        ({ size, start }) => size <= 2 * unit || !partitions.some((one) => one.start * unit === start),
      );
      expect(boxes.length).toBe(placement.containers.length);
      expect(survey.partitions.length).toBeGreaterThan(0);
    },
  );

  test('the kernel says nothing about any of them', () => {
    const words =
      /(EXT4-fs|FAT-fs|exFAT-fs|GPT|partition).*(error|warn|corrupt|invalid|bad|not properly|alternate|mismatch|beyond)/i;
    expect(report.log.filter((line) => words.test(line))).toEqual([]);
  });
}
