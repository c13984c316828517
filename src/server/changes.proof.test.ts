/** Changes on the server: a layout from a survey, before and after, and a new image that is the one that was shown. */
import { createHash } from 'node:crypto';
import { readFileSync, truncateSync, writeFileSync } from 'node:fs';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { ownContext } from '@tests/own-context';
import type { Layout, Slot } from '@/core/layout/document';
import { acceptingAll, openRisks } from '@/core/findings/layout/acceptance';
import { applyEdit } from '@/core/layout/edits';
import { MIB } from '@/core/quantity/units';
import { imagePath } from '@/files/data-folder';
import { writeImage } from '@/files/image-file';
import { place } from '@/core/placement/place';
import { getBuild, startBuild } from './builds';
import { beforeAndAfter, candidatesFor, keepInLayout, startChange } from './changes';
import { listFolder } from './browsing';
import { addDemoContents } from './demo';
import { addDemoImages } from './demo-images';
import { imageFilePath, listImageFiles } from './image-folder';
import { saveRevision } from './layouts';
import { proposal, startProposal } from './proposals';
import { surveyImage } from './surveys';

const own = ownContext();
const FIRST = layoutOn(
  '64 MiB',
  [fatPart('e', '20 MiB', { variant: 16, label: 'HARBOUR' }), part('s', '20 MiB'), part('t', 'rest')],
  { table: GPT_TABLE },
);

async function anImage(name = 'old.img'): Promise<string> {
  const path = imageFilePath(own.context(), name);
  await writeImage({
    placement: place(FIRST),
    path,
    signal: new AbortController().signal,
    onProgress: () => undefined,
  });
  return path;
}

const sumOf = (path: string) => createHash('sha256').update(readFileSync(path)).digest('hex');

async function ended(id: string) {
  await own.context().buildQueue.idle();
  return getBuild(own.context(), id);
}

const save = (id: string, base: number, document: Layout) =>
  saveRevision(own.context(), id, { base, document, note: 'changed' });

test('a survey becomes a layout; its image is changed as it was shown, and only then', async () => {
  const path = await anImage();
  const before = sumOf(path);
  const { id, document, revision } = await keepInLayout(own.context(), { of: 'file:old.img' });
  expect(document.name).toBe('old');
  expect(await candidatesFor(own.context(), document)).toEqual([{ of: 'file:old.img', name: 'old.img' }]);
  await expect(startBuild(own.context(), { layoutId: id, revision })).rejects.toThrow('and not from nothing');

  const asked = { layoutId: id, of: 'file:old.img' };
  const nothing = await beforeAndAfter(own.context(), asked);
  expect(nothing).toMatchObject({ ranges: [], refused: [], left: [] });
  const [e, , t] = document.slots;
  const next = { ...document, slots: [e!, fatPart('n', '12 MiB', { variant: 16 }, { name: 'Tides' }) as Slot, t!] };
  await save(id, 1, next);
  const open = await beforeAndAfter(own.context(), asked);
  expect(open.rows.map(({ fates }) => fates)).toEqual([['kept'], ['new'], ['deleted'], ['kept']]);
  const order = { ...asked, revision: 2, mark: open.mark };
  await expect(startChange(own.context(), order)).rejects.toThrow('will be lost');
  const accepted = applyEdit(next, acceptingAll(next, openRisks(open.findings), 'as agreed'));
  await save(id, 2, accepted);
  await expect(startChange(own.context(), { ...order, revision: 3 })).rejects.toThrow('not what was shown');
  const shown = await beforeAndAfter(own.context(), asked);
  const build = await startChange(own.context(), { ...asked, revision: 3, mark: shown.mark });
  const done = await ended(build.id);
  expect(done).toMatchObject({ state: 'done', size: 64 * MIB, report: { change: { from: 'old.img' } } });
  expect(sumOf(path)).toBe(before);
  const made = readFileSync(imagePath(own.context().folder, build.id));
  const old = readFileSync(path);
  for (const [at, length] of [
    [MIB, 20 * MIB],
    [41 * MIB, 22 * MIB],
  ] as const)
    expect(made.subarray(at, at + length).equals(old.subarray(at, at + length))).toBe(true);
  const { survey, findings } = await surveyImage(own.context(), { of: `build:${build.id}` });
  expect(survey.partitions.map(({ number, name }) => [number, name])).toEqual([
    [1, 'e'],
    [2, 'Tides'],
    [3, 't'],
  ]);
  expect(findings).toEqual([]);
});

test('an image that is another one, or has changed, is refused with what differs', async () => {
  const path = await anImage();
  const { id, document } = await keepInLayout(own.context(), { of: 'file:old.img' });
  await save(id, 1, { ...document, slots: document.slots.map((slot) => ({ ...slot, name: `${slot.name} again` })) });
  const asked = { layoutId: id, of: 'file:old.img' };
  const { mark } = await beforeAndAfter(own.context(), asked);
  const bytes = readFileSync(path);
  // A name in the table changes: place, type and id do not, and the plan is another one all the same.
  const changed = Buffer.from(bytes);
  changed.write('x', 1024 + 56, 'utf16le');
  writeFileSync(path, changed);
  await expect(startChange(own.context(), { ...asked, revision: 2, mark })).rejects.toThrow();
  writeFileSync(path, bytes);
  truncateSync(path, 32 * MIB);
  expect((await beforeAndAfter(own.context(), asked)).refused).toEqual([expect.stringContaining('32 MiB')]);
  expect(await candidatesFor(own.context(), document)).toEqual([]);
  await expect(beforeAndAfter(own.context(), { ...asked, of: 'file:none.img' })).rejects.toThrow('no file');
});

test('the demo images are as their stories say', async () => {
  await addDemoContents(own.context(), 'demo/contents');
  await addDemoImages(own.context(), 'demo/images');
  await addDemoImages(own.context(), 'demo/images');
  const files = await listImageFiles(own.context());
  expect(files.map(({ name, story }) => [name, (story ?? '').length > 40])).toEqual([
    ['chart-plotter.img', true],
    ['gauge-card-grown.img', true],
    ['pier-card.img', true],
    ['service-stick.img', true],
    ['survey-laptop.img', true],
  ]);
  const rules = async (of: string) => (await surveyImage(own.context(), { of })).findings.map(({ rule }) => rule);
  expect(await rules('file:chart-plotter.img')).toContain('found-chain/without-signature');
  expect(await rules('file:gauge-card-grown.img')).toContain('found-gpt/copy-not-at-the-end');
  expect(await rules('file:survey-laptop.img')).toEqual([]);
  expect(await rules('file:pier-card.img')).toEqual(['found-place/not-let-go']);
  const { entries, remark } = await listFolder(own.context(), { of: 'file:pier-card.img', partition: '2', path: '' });
  expect(entries.map(({ name }) => name)).toContain('last reading of the pier.csv');
  expect(remark).toMatch(/journal was replayed in memory: 2 transactions/);
  expect((await surveyImage(own.context(), { of: 'file:service-stick.img' })).survey.iso?.label).toBe('RESCUE_3');
  const { document } = await keepInLayout(own.context(), { of: 'file:survey-laptop.img' });
  // Nobody knows what lies behind a chain that breaks: it stays.
  const plotter = (await keepInLayout(own.context(), { of: 'file:chart-plotter.img' })).document;
  expect(plotter.slots.map(({ kind, name }) => [kind, name])).toEqual([
    ['partition', 'CHARTBOOT'],
    ['partition', 'Partition 2'],
    ['partition', 'CHARTS'],
    ['raw', 'Behind a broken chain'],
  ]);
  expect(document.found?.partitions[2]?.inside?.label).toBe('SURVEY');
  expect(document.found?.partitions.map(({ inside }) => inside?.kind)).toEqual(['FAT32', undefined, 'NTFS', 'NTFS']);
});

test('an image is mended, cut or cleared as it was shown', async () => {
  await addDemoContents(own.context(), 'demo/contents');
  await addDemoImages(own.context(), 'demo/images');
  const of = 'file:gauge-card-grown.img';
  const mend = await proposal(own.context(), { of, does: 'repair' });
  expect(mend).toMatchObject({ refused: [], left: [], size: 512 * MIB, becomes: 512 * MIB });
  const cut = await proposal(own.context(), { of, does: 'cut' });
  expect(cut.becomes).toBe(256 * MIB);
  const clear = await proposal(own.context(), { of, does: 'clear' });
  expect(clear.words).toContain('Partition 2, Log: ext4, GAUGELOG.');
  await expect(startProposal(own.context(), { of, does: 'cut', mark: clear.mark })).rejects.toThrow(
    'not what was shown',
  );
  for (const { does, mark, becomes } of [mend, cut, clear]) {
    const build = await startProposal(own.context(), { of, does, mark });
    expect(await ended(build.id)).toMatchObject({ state: 'done', size: becomes });
    const { survey, findings } = await surveyImage(own.context(), { of: `build:${build.id}` });
    if (does === 'clear') expect(survey.table).toBe('none');
    else expect(findings.filter(({ severity }) => severity !== 'note')).toEqual([]);
  }
  const sound = 'file:survey-laptop.img';
  const nothing = await proposal(own.context(), { of: sound, does: 'repair' });
  expect(nothing).toMatchObject({ words: ['Nothing is to be mended.'], refused: [] });
  await expect(startProposal(own.context(), { of: sound, does: 'repair', mark: nothing.mark })).rejects.toThrow(
    'Nothing of',
  );
  await expect(proposal(own.context(), { of, does: 'repair', only: 'everything' })).rejects.toThrow('no repair');
});
