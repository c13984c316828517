import { createHash } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import { inPieces, tarOf, zipOf } from '@tests/archives';
import { ownContext } from '@tests/own-context';
import { fatPart, layoutOn, part } from '@tests/samples';
import { treeText } from '@/core/filesystems/tree-text';
import type { Layout } from '@/core/layout/document';
import { sumsOf } from '../files/gathering';
import { finishedImage, getBuild, startBuild } from './builds';
import { listFolder } from './browsing';
import { getLayout, shelf } from './layouts';
import { takeIn } from './taking-in';

const { context, stored } = ownContext();

const FILES = { 'A.TXT': 'hello from the coast', 'conf/b.cfg': 'id=7' };
const filled = (filesFrom: string, more: object = {}): Layout =>
  layoutOn('64 MiB', [fatPart('boot', '40 MiB', { filesFrom, ...more })]);

/** An archive of a document, and files beside it. */
function archiveOf(layout: object, files: Readonly<Record<string, string | Buffer>>, above = ''): Promise<Buffer> {
  const members = { [`${above}layout.json`]: JSON.stringify(layout), ...files };
  return tarOf(Object.entries(members).map(([name, content]) => ({ name, content })));
}

const below = (folder: string, files: Readonly<Record<string, string>>) =>
  Object.fromEntries(Object.entries(files).map(([name, text]) => [`${folder}/${name}`, text]));

async function taken(archive: Buffer): Promise<Layout> {
  const { id } = await takeIn(context(), 'gauge.tar', inPieces(archive));
  return (await getLayout(context(), id)).document;
}

const filesOf = (layout: Layout) => (layout.slots[0] as { content: { files?: string } }).content.files;

async function listed(layoutId: string): Promise<string[]> {
  const { id } = await startBuild(context(), { layoutId, revision: 1 });
  await context().buildQueue.idle();
  expect((await getBuild(context(), id)).failure).toBeNull();
  await finishedImage(context(), id);
  const { entries } = await listFolder(context(), { of: `build:${id}`, partition: '1', path: '' });
  return entries.map((one) => one.name);
}

test('a document with its folder builds, from one archive that is kept in one piece', async () => {
  const archive = await archiveOf(filled('files'), below('files', FILES));
  const { id } = await takeIn(context(), 'gauge.tgz', inPieces(gzipSync(archive)));
  expect(stored()).toHaveLength(2);
  expect(await listed(id)).toEqual(['A.TXT', 'conf']);
  expect((await shelf(context())).layouts).toMatchObject([{ id }]);
});

test.each([
  [
    'a tar inside of the archive',
    async () => ({ 'files.tar': await tarOf([{ name: 'A.TXT', content: 'a' }]) }),
    'files.tar',
  ],
  ['a zip inside of it', async () => ({ 'files.zip': await zipOf({ 'A.TXT': 'a' }) }), './files.zip'],
  ['one file', () => Promise.resolve({ 'sub/A.TXT': 'a' }), 'sub/A.TXT'],
])('%s', async (_, make, from) => {
  const { id } = await takeIn(context(), 'g.tar', inPieces(await archiveOf(filled(from), await make())));
  expect(await listed(id)).toEqual(['A.TXT']);
});

test('the sum that a folder has at the terminal is found again, in whatever order the archive comes', async () => {
  const file = (path: string, text: string) => ({ kind: 'file' as const, path, ...sumsOf(Buffer.from(text)) });
  const tree = [
    file('A.TXT', FILES['A.TXT']),
    { kind: 'folder' as const, path: 'conf' },
    file('conf/b.cfg', FILES['conf/b.cfg']),
  ];
  const sum = createHash('sha256').update(treeText(tree)).digest('hex');
  const turned = Object.fromEntries(Object.entries(below('files', FILES)).reverse());
  const layout = await taken(await archiveOf(filled('files', { files: sum }), turned));
  expect(filesOf(layout)).toBe(sum);
  for (const text of Object.values(FILES)) expect(stored()).toContain(createHash('sha256').update(text).digest('hex'));
});

test('files that are taken as they are have their sums', async () => {
  const layout = layoutOn('64 MiB', [part('data', '1 MiB')]);
  const slots = [{ ...layout.slots[0], content: { kind: 'file', path: 'tide.bin' } }];
  const answer = await taken(await archiveOf({ ...layout, slots }, { 'gauge/tide.bin': 'tide' }, 'gauge/'));
  const sha256 = createHash('sha256').update('tide').digest('hex');
  expect(answer.slots[0]).toMatchObject({ content: { sha256, name: 'tide.bin', size: 4, path: 'tide.bin' } });
  expect(stored()).toContain(sha256);
});

test.each([
  ['no document', async () => tarOf([{ name: 'a.json', content: '{}' }]), 'no-document'],
  ['two documents', async () => archiveOf(filled('f'), { 'b.json': JSON.stringify(filled('f')) }), 'several-documents'],
  ['a document that is none', async () => archiveOf({ format: 'loess-layout' }, {}), 'layout-invalid'],
  ['a path that is not there', async () => archiveOf(filled('gone'), {}), 'path-missing'],
  ['a path that leads out', async () => archiveOf(filled('../x'), {}), 'path-leaves-folder'],
  ['a path from the root', async () => archiveOf(filled('/etc'), {}), 'path-leaves-folder'],
  ['another sum', async () => archiveOf(filled('f', { files: 'a'.repeat(64) }), { 'f/a': 'a' }), 'content-differs'],
  ['no archive', () => Promise.resolve(Buffer.from('{}')), 'archive-unknown'],
])('an archive with %s is refused, and nothing of it is kept', async (_, make, code) => {
  await expect(takeIn(context(), 'g.tar', inPieces(await make()))).rejects.toMatchObject({ code });
  expect(stored()).toEqual([]);
  expect((await shelf(context())).layouts).toEqual([]);
});
