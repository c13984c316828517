/** Kept ext volumes that are made smaller, larger and moved: laid anew in their slot, with every fact; and what is refused. */
import { extOverNoise } from '@tests/ext';
import { systemTree } from '@tests/ext-trees';
import { inMemory, Shelf } from '@tests/filled';
import { factsOf } from '@tests/repacked';
import type { BlockSource } from '../bytes/blocks';
import { check } from '../findings/layout/check';
import { stopsAmong } from '../findings/layout/finding';
import { layingAnew, moving, resizing } from '../layout/acts';
import type { Layout } from '../layout/document';
import { applyEdit, type Edit } from '../layout/edits';
import { validateLayout } from '../layout/validate';
import { place } from '../placement/place';
import { MIB } from '../quantity/units';
import { surveyMedium } from '../survey/survey';
import { alteration } from './alter';
import { becomings } from './before-after';
import { layoutKeeping } from './keep';
import { changedSource } from './plan';

const shelf = new Shelf();
const [AT, VOLUME, SIZE] = [MIB, 40 * MIB, 64 * MIB];
const SECTORS = VOLUME / 512;

/** A medium with an MBR, and a system in an ext4 of 40 MiB. */
function medium(ext: Uint8Array, size = SIZE): Uint8Array {
  const bytes = new Uint8Array(size);
  bytes.set(ext, AT);
  const view = new DataView(bytes.buffer);
  view.setUint32(440, 0x6d617272, true);
  view.setUint8(446 + 4, 0x83);
  view.setUint32(446 + 8, AT / 512, true);
  view.setUint32(446 + 12, SECTORS, true);
  view.setUint16(510, 0xaa55, true);
  return bytes;
}

const ext = extOverNoise({ version: 'ext4', bytes: VOLUME, block: 1024 }, systemTree(shelf), shelf);

async function kept(source: BlockSource): Promise<Layout> {
  const layout = layoutKeeping(await surveyMedium(source, { sectorSize: 512 }), {
    name: 'Kept',
    date: '2026-03-01T12:00:00',
  });
  if (!layout.ok) throw new Error(layout.error);
  return layout.value;
}

/** The medium as the layout makes it, or why it cannot. */
async function altered(source: BlockSource, layout: Layout) {
  const valid = validateLayout(JSON.parse(JSON.stringify(layout)));
  if (!valid.ok) throw new Error(JSON.stringify(valid.error));
  const placement = place(valid.value);
  expect(stopsAmong(check(placement)).map(({ sentence }) => sentence)).toEqual([]);
  const survey = await surveyMedium(source, { sectorSize: 512 });
  const plan = await alteration(placement, survey, source);
  return { placement, plan, rows: becomings(placement) };
}

/** The bytes of the partition as it lies afterwards. */
async function partitionOf(source: BlockSource, layout: Layout): Promise<{ bytes: Uint8Array; start: number }> {
  const { plan } = await altered(source, layout);
  if (!plan.ok) throw new Error(plan.error.lines.join('; '));
  const after = changedSource(source, plan.value);
  const { partitions } = await surveyMedium(after, { sectorSize: 512 });
  expect(partitions).toHaveLength(1);
  const { start, sectors } = partitions[0]!;
  return { bytes: new Uint8Array(await after.read(start * 512, sectors * 512)), start };
}

const act = (layout: Layout, edit: Edit | undefined) => applyEdit(layout, edit!);
const sized = (layout: Layout, bytes: number) => {
  const done = resizing(layout, 'kept-1', bytes / 512);
  if (!done.ok) throw new Error(done.error);
  return { layout: act(layout, done.value.edit), said: done.value };
};

test('made smaller, an ext is laid anew by itself, and loses nothing', async () => {
  const source = inMemory(medium(ext));
  const { layout, said } = sized(await kept(source), 20 * MIB);
  expect(said).toMatchObject({ cost: 'none', sentence: expect.stringMatching(/^The ext4 inside is checked/) });
  expect(layout.slots[0]).toMatchObject({ repack: 'renumbered', size: '20 MiB' });
  const { bytes } = await partitionOf(source, layout);
  expect(bytes).toHaveLength(20 * MIB);
  expect(await factsOf(bytes)).toEqual(await factsOf(ext));
  const { rows } = await altered(source, layout);
  expect(rows[0]).toMatchObject({ fates: ['made smaller', 'laid anew'], atStake: 0 });
});

test('made larger and moved, with the numbers of its inodes kept', async () => {
  const source = inMemory(medium(ext));
  const larger = sized(await kept(source), 50 * MIB).layout;
  // Larger, its own system can let it grow: it is laid anew where that is asked for.
  expect(larger.slots[0]).not.toHaveProperty('repack');
  const anew = act(larger, layingAnew(larger, 'kept-1', 'kept')?.edit);
  const moved = moving(anew, 'kept-1', (5 * MIB) / 512);
  if (!moved.ok) throw new Error(moved.error);
  const { bytes, start } = await partitionOf(source, act(anew, moved.value.edit));
  expect([bytes.length, start]).toEqual([50 * MIB, (5 * MIB) / 512]);
  expect(await factsOf(bytes)).toEqual(await factsOf(ext));
});

test('a GPT wants the end of a medium that an ext takes: the remedy gives it up', async () => {
  const source = inMemory(medium(ext, AT + VOLUME));
  const found = await kept(source);
  const gpt: Layout = {
    ...found,
    table: { kind: 'gpt', diskId: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5' },
    slots: found.slots.map((slot) => ({ ...slot, type: undefined })) as Layout['slots'],
  };
  const clean = JSON.parse(JSON.stringify(gpt)) as Layout;
  const finding = check(place(clean)).find(({ rule }) => rule === 'kept/end-in-the-way')!;
  const { bytes } = await partitionOf(source, act(clean, finding.remedies[0]!.edit));
  expect(bytes.length).toBeLessThan(VOLUME);
  expect(await factsOf(bytes)).toEqual(await factsOf(ext));
});

test('what does not fit, and what has faults, is refused with the reason', async () => {
  const source = inMemory(medium(ext));
  const small = await altered(source, sized(await kept(source), 3 * MIB).layout);
  expect(small.plan).toMatchObject({ ok: false, error: { isOther: false } });
  expect(small.plan.ok ? [] : small.plan.error.lines).toEqual([
    expect.stringMatching(/^the ext4 of Gauge köln cannot be laid anew: 3 MiB .* do not hold it: it needs .* blocks$/),
  ]);
  const broken = new Uint8Array(ext);
  // A block of its first bitmap says that something free is in use.
  broken[1024 + 0x0c] = broken[1024 + 0x0c]! ^ 1;
  const other = inMemory(medium(broken));
  const faulty = await altered(other, sized(await kept(other), 20 * MIB).layout);
  expect(faulty.plan.ok ? [] : faulty.plan.error.lines).toEqual([expect.stringMatching(/it has \d+ faults? \(/)]);
});

test('only an ext that was found can be laid anew', async () => {
  const layout = await kept(inMemory(medium(new Uint8Array(VOLUME))));
  expect(layingAnew(layout, 'kept-1', 'renumbered')).toBeUndefined();
  const slots = layout.slots.map((slot) => ({ ...slot, repack: 'renumbered' }));
  const valid = validateLayout({ ...layout, slots });
  expect(valid.ok ? [] : valid.error).toEqual([
    { path: 'slots[0].repack', message: 'is for an ext that was found and is kept' },
  ]);
});
