/** `keep` and `change` at the terminal: what an image holds stays, around it a new one is made; the old one is only read. */
import { createHash } from 'node:crypto';
import { closeSync, openSync, readFileSync, statSync, truncateSync, writeFileSync, writeSync } from 'node:fs';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { folderOfEachTest, loess } from '@tests/terminal';
import { accepting } from '@/core/findings/layout/acceptance';
import { check } from '@/core/findings/layout/check';
import type { Layout, Slot } from '@/core/layout/document';
import { applyEdit } from '@/core/layout/edits';
import { readLayout, writeLayout } from '@/core/layout/validate';
import { place } from '@/core/placement/place';
import { MIB } from '@/core/quantity/units';
import { EXIT } from './exit';

const { file, document } = folderOfEachTest();
const sumOf = (name: string, from = 0, length = Infinity) =>
  createHash('sha256')
    .update(readFileSync(file(name)).subarray(from, from + length))
    .digest('hex');

const FIRST = layoutOn(
  '64 MiB',
  [fatPart('e', '20 MiB', { variant: 16, label: 'HARBOUR' }), part('s', '20 MiB'), part('t', 'rest')],
  { table: GPT_TABLE },
);

/** An image with something in each of its partitions, and the document that keeps it. */
async function keptImage(layout = FIRST): Promise<Layout> {
  expect(await loess(['build', document(layout, 'first.json'), '--into', file('old.img')])).toMatchObject({ exit: 0 });
  const descriptor = openSync(file('old.img'), 'r+');
  for (const at of [22 * MIB, 45 * MIB]) writeSync(descriptor, Buffer.alloc(4096, 0x5a), 0, undefined, at);
  closeSync(descriptor);
  const { exit, out } = await loess(['keep', file('old.img')]);
  expect(exit).toBe(EXIT.done);
  const read = readLayout(out);
  if (!read.ok) throw new Error(JSON.stringify(read.error));
  return read.value;
}

const changed = (layout: Layout, slots: readonly Slot[]): Layout => ({ ...layout, slots: [...slots] });
const accept = (name: string) => loess(['accept', file(name), '--all', '--reason', 'as agreed with the harbour']);

test('everything that an image holds becomes a kept slot, and nothing is to be written', async () => {
  const layout = await keptImage();
  expect(layout.slots.map((slot) => slot.kind === 'partition' && [slot.keeps, slot.name, slot.size])).toEqual([
    [1, 'e', '20 MiB'],
    [2, 's', '20 MiB'],
    [3, 't', '47071 sectors'],
  ]);
  expect(layout.found).toMatchObject({ size: 64 * MIB, table: 'gpt', id: GPT_TABLE.diskId });
  expect(layout.found?.partitions[0]?.inside).toMatchObject({ kind: 'FAT16', label: 'HARBOUR' });
  document(layout, 'kept.json');
  const answer = await loess(['change', file('kept.json'), '--on', file('old.img'), '--json']);
  expect(answer.exit).toBe(EXIT.done);
  expect(answer.json()).toMatchObject({ ranges: [], left: [] });
  const text = await loess(['change', file('kept.json'), '--on', file('old.img'), '--into', file('same.img')]);
  expect(text.out).toContain('e: kept');
  expect(sumOf('same.img')).toBe(sumOf('old.img'));
});

test('a partition that goes is named with what is lost, and what is new comes in its place; the others keep every byte', async () => {
  const layout = await keptImage();
  const [e, , t] = layout.slots;
  const made = changed(layout, [e!, fatPart('n', '12 MiB', { variant: 16, label: 'TIDES' }, { name: 'Tides' }), t!]);
  document(made, 'new.json');
  const before = sumOf('old.img');
  const refused = await loess(['change', file('new.json'), '--on', file('old.img')]);
  expect(refused).toMatchObject({ exit: EXIT.risk });
  expect(refused.error).toContain('Partition 2 goes: 20 MiB ≈ 20.97 MB in which nothing was recognised will be lost.');
  await accept('new.json');
  const shown = await loess(['change', file('new.json'), '--on', file('old.img'), '--into', file('new.img')]);
  expect(shown).toMatchObject({ exit: EXIT.done });
  expect(shown.out).toContain('s: deleted');
  expect(shown.out).toContain('Tides: new');
  expect(shown.out).toMatch(/GPT entries, copy: from byte/);
  expect(sumOf('old.img')).toBe(before);
  for (const [at, length] of [
    [MIB, 20 * MIB],
    [41 * MIB, 22 * MIB],
  ] as const)
    expect(sumOf('new.img', at, length)).toBe(sumOf('old.img', at, length));
  const survey = (await loess(['survey', file('new.img'), '--json'])).json() as {
    survey: { partitions: { number: number; name: string; inside: { kind: string } }[] };
    findings: unknown[];
  };
  expect(survey.survey.partitions.map(({ number, name }) => [number, name])).toEqual([
    [1, 'e'],
    [2, 'Tides'],
    [3, 't'],
  ]);
  expect(survey.findings).toEqual([]);
});

test('a layout that keeps something is not built from nothing, nor made on another medium', async () => {
  const layout = await keptImage();
  document(layout, 'kept.json');
  const built = await loess(['build', file('kept.json'), '--into', file('b.img')]);
  expect(built).toMatchObject({ exit: EXIT.stop });
  expect(built.error).toContain('made from that medium’s, and not from nothing');
  const series = await loess(['series', file('kept.json'), '--copies', '2', '--into', file('many')]);
  expect(series).toMatchObject({ exit: EXIT.stop });

  // Another size, another table, another id, a partition more or less: each is said.
  writeFileSync(file('short.img'), readFileSync(file('old.img')).subarray(0, 60 * MIB));
  const short = await loess(['change', file('kept.json'), '--on', file('short.img')]);
  expect(short).toMatchObject({ exit: EXIT.stop, error: expect.stringContaining('60 MiB') as string });
  document(changed(FIRST, FIRST.slots.slice(0, 2)), 'fewer.json');
  await loess(['build', file('fewer.json'), '--into', file('fewer.img')]);
  const fewer = await loess(['change', file('kept.json'), '--on', file('fewer.img')]);
  expect(fewer.error).toContain('partition 3 is not there any more');
  const other = { ...FIRST, table: { ...GPT_TABLE, diskId: '0badcafe-616d-4c0a-8d05-7469646573aa' } };
  document(other, 'other.json');
  await loess(['build', file('other.json'), '--into', file('other.img')]);
  expect((await loess(['change', file('kept.json'), '--on', file('other.img')])).error).toContain('had 6d617272');
});

test('bytes under the plan that changed since are refused where they are written', async () => {
  const layout = await keptImage();
  const plain = readFileSync(file('old.img'));
  document(changed(layout, [...layout.slots.slice(0, 2)]), 'new.json');
  await accept('new.json');
  // The copy of the GPT is damaged: the plan cannot be made of it.
  const damaged = Buffer.from(plain);
  damaged.fill(0, 64 * MIB - 512);
  writeFileSync(file('damaged.img'), damaged);
  const refused = await loess(['change', file('new.json'), '--on', file('damaged.img')]);
  expect(refused).toMatchObject({ exit: EXIT.stop, error: expect.stringContaining('mend it first') as string });
  truncateSync(file('damaged.img'), 0);
  expect((await loess(['keep', file('damaged.img')])).exit).not.toBe(EXIT.done);
});

test('a table is converted there and back, and every partition stays to the byte', async () => {
  await keptImage();
  const converted = await loess(['keep', file('old.img'), '--table', 'mbr', '--into', file('mbr.json')]);
  expect(converted).toMatchObject({ exit: EXIT.done, error: expect.stringContaining('keeps no names') as string });
  await accept('mbr.json');
  const made = await loess(['change', file('mbr.json'), '--on', file('old.img'), '--into', file('mbr.img')]);
  expect(made).toMatchObject({ exit: EXIT.done });
  expect(sumOf('mbr.img', MIB, 62 * MIB)).toBe(sumOf('old.img', MIB, 62 * MIB));
  const survey = await loess(['survey', file('mbr.img'), '--json']);
  expect(survey.json()).toMatchObject({ survey: { table: 'mbr', gpt: {} }, findings: [] });

  await loess(['keep', file('mbr.img'), '--table', 'gpt', '--into', file('gpt.json')]);
  await accept('gpt.json');
  expect(await loess(['change', file('gpt.json'), '--on', file('mbr.img'), '--into', file('gpt.img')])).toMatchObject({
    exit: EXIT.done,
  });
  expect(sumOf('gpt.img', MIB, 62 * MIB)).toBe(sumOf('old.img', MIB, 62 * MIB));
  const back = await loess(['survey', file('gpt.img'), '--json']);
  expect(back.json()).toMatchObject({ survey: { table: 'gpt', partitions: [{}, {}, {}] }, findings: [] });
});

test('files of a new volume come along, and a risk or a stop is told before anything is made', async () => {
  const layout = await keptImage();
  writeFileSync(file('note.txt'), 'low water at six\n');
  const n: Slot = fatPart('n', '12 MiB', { variant: 16 });
  writeFileSync(file('new.json'), writeLayout(changed(layout, [layout.slots[0]!, n, layout.slots[2]!])));
  await accept('new.json');
  const made = await loess([
    'change',
    file('new.json'),
    '--on',
    file('old.img'),
    '--from',
    `n=${file('note.txt')}`,
    '--into',
    file('new.img'),
  ]);
  expect([made.exit, made.error]).toEqual([EXIT.done, '']);
  expect(readFileSync(file('new.img')).includes('low water at six\n')).toBe(true);
  expect(statSync(file('new.img')).size).toBe(64 * MIB);

  const itself = await loess(['change', file('new.json'), '--on', file('old.img'), '--into', file('old.img')]);
  expect(itself).toMatchObject({ exit: EXIT.usage });
  const over: Slot = { ...n, size: '40 MiB' } as Slot;
  document(changed(layout, [layout.slots[0]!, over, layout.slots[2]!]), 'over.json');
  expect(await loess(['change', file('over.json'), '--on', file('old.img')])).toMatchObject({ exit: EXIT.stop });
});

test('two partitions that go are two risks, and each is taken by itself', async () => {
  const layout = await keptImage();
  let so = changed(layout, [layout.slots[0]!]);
  const lost = () => check(place(so)).filter(({ rule }) => rule === 'kept/lost');
  expect(lost().map(({ accepted }) => accepted)).toEqual([undefined, undefined]);
  so = applyEdit(so, accepting(so, lost()[0]!, 'the harbour has a copy'));
  expect(lost().map(({ accepted }) => accepted)).toEqual(['the harbour has a copy', undefined]);
  expect(lost()[1]!.acceptedBefore).toBeUndefined();
  so = applyEdit(so, accepting(so, lost()[1]!, 'so has the office'));
  expect(lost().map(({ accepted }) => accepted)).toEqual(['the harbour has a copy', 'so has the office']);
});
