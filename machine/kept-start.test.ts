/**
 * Machines start from a changed medium what they started from it before: UEFI firmware the program of a kept ESP, a BIOS
 * the boot sector of a kept partition through the code of sector 0.
 */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { oneOf } from '@tests/tier';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { deleting, moving } from '@/core/layout/acts';
import { withFiles } from '@/core/layout/contents';
import type { Layout } from '@/core/layout/document';
import { applyEdit } from '@/core/layout/edits';
import { translation } from '@/core/layout/translate';
import { isPartition, type Placement } from '@/core/placement/placement';
import { MIB } from '@/core/quantity/units';
import { screenOf } from './bios';
import { imageWith, withPayload } from './bios-images';
import { changedBy, keptId } from './changing';
import { buildFilled, TestStore } from './fill';
import { runFirmware } from './firmware';
import { loaderFile } from './packages';

const SECTORS = MIB / 512;
/** What the program says when the firmware starts it. */
const SAYS = 'iPXE';

let folder: string;
let number = 0;
const at = (name: string) => path.join(folder, name);
beforeAll(() => (folder = mkdtempSync(path.join(tmpdir(), 'loess-kept-start-'))));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const without = (layout: Layout, n: number) => applyEdit(layout, deleting(layout, keptId(layout, n))!.edit);
const added = (layout: Layout) =>
  applyEdit(layout, {
    do: 'add slot',
    slot: fatPart('n', '12 MiB', { variant: 16, label: 'NEW' }, { name: 'New' }),
    index: layout.slots.length,
  });
const moved = (layout: Layout, n: number, to: number) => {
  const act = moving(layout, keptId(layout, n), to * SECTORS);
  if (!act.ok) throw new Error(act.error);
  return applyEdit(layout, act.value.edit);
};
const converted = (layout: Layout) =>
  applyEdit(layout, translation(layout, layout.table.kind === 'gpt' ? 'mbr' : 'gpt').edit);

type Edits = readonly ((layout: Layout) => Layout)[];

/** Changes an image step by step; gives the last, and how it lies. */
async function through(from: string, edits: Edits): Promise<{ readonly file: string; readonly placement: Placement }> {
  let file = from;
  let placement: Placement | undefined;
  for (const edit of edits) {
    const to = at(`${(number += 1)}.img`);
    placement = (await changedBy(file, to, 512, edit)).placement;
    file = to;
  }
  return { file, placement: placement! };
}

describe('UEFI firmware', () => {
  let image: string;
  beforeAll(async () => {
    image = at('esp.img');
    const store = new TestStore(at('store'));
    const loader = readFileSync(loaderFile());
    const program = {
      path: 'EFI/BOOT/BOOTX64.EFI',
      kind: 'file',
      size: loader.length,
      sha256: store.shelf.add(loader),
    } as const;
    const esp = withFiles(fatPart('esp', '64 MiB', { label: 'ESP' }, { role: 'esp' }), store.tree([program]));
    const slots = [
      part('a', '20 MiB'),
      { ...fatPart('esp', '64 MiB', {}, { role: 'esp' }), ...esp },
      part('b', '20 MiB'),
    ];
    await buildFilled(layoutOn('200 MiB', slots, { table: GPT_TABLE }), store, image);
  });

  const ALL: readonly (readonly [string, Edits])[] = [
    ['the ESP moves behind all others', [(layout) => moved(layout, 1, 120)]],
    ['one partition goes and another comes', [(layout) => added(without(layout, 0))]],
    ['the table becomes an MBR', [converted]],
    ['the table becomes an MBR, and a GPT again', [converted, converted]],
  ];
  test.each(oneOf(3, ALL))('starts the program of a kept ESP where %s', async (_, edits) => {
    const { file } = await through(image, edits);
    expect(await runFirmware({ file, sectorSize: 512 }, SAYS)).toContain(SAYS);
  });
});

describe('a BIOS', () => {
  const mbr = layoutOn('64 MiB', [part('a', '8 MiB'), part('b', '8 MiB', { active: true }), part('c', '8 MiB')], {
    boots: ['bios'],
    machine: { loaderFrom: 'own code' },
  });
  const hex = (n: number) => n.toString(16).toUpperCase().padStart(8, '0');

  test.each<readonly [string, Edits]>([
    ['all is kept', [(layout) => layout]],
    ['one partition goes and another comes', [(layout) => added(without(layout, 0))]],
    ['the partition moves', [(layout) => moved(layout, 1, 40)]],
  ])('starts the boot sector of a kept partition where %s', async (_, edits) => {
    const image = at(`${(number += 1)}.img`);
    await imageWith(mbr, image, withPayload('b'));
    const { file, placement } = await through(image, edits);
    const start = placement.placed.filter(isPartition).find(({ slot }) => slot.active)!.start;
    expect(await screenOf({ file }, ['Payload: drive', 'Press a key', 'Sector 0: '])).toMatch(
      new RegExp(`Payload: drive ..80, from sector ${hex(start)}\\.`),
    );
  });
});
