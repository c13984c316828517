/** The shelf with many layouts: pages, a filter, and what is damaged in its place. */
import { ownContext } from '@tests/own-context';
import { layoutOn, part } from '@tests/samples';
import { sql } from 'drizzle-orm';
import { execFileSync } from 'node:child_process';
import { mkdirSync, symlinkSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { listImageFiles, strangeFiles } from './image-folder';
import { createLayout, putAway, shelf } from './layouts';
import { surveyImage } from './surveys';

const { context } = ownContext();
const named = (name: string) => layoutOn('10 MiB', [part('a', 'rest')], { name });

test('pages have all of them once, the last changed first', async () => {
  for (let i = 0; i < 60; i++) await createLayout(context(), named(`Buoy ${i}`), 'New');
  const [one, two, three] = [
    await shelf(context(), { page: 1 }),
    await shelf(context(), { page: 2 }),
    await shelf(context(), { page: 3 }),
  ];
  expect([one.total, one.pages, one.layouts.length, two.layouts.length, three.layouts.length]).toEqual([
    60, 2, 48, 12, 0,
  ]);
  const ids = [...one.layouts, ...two.layouts].map(({ id }) => id);
  expect(new Set(ids).size).toBe(60);
  expect((await shelf(context())).layouts.map(({ id }) => id)).toEqual(ids);
});

test('a filter finds a part of a name or of an id, and takes every sign as it is', async () => {
  for (const name of ['Gauge 100%', 'Gauge_7', 'Küste', 'Tide log']) await createLayout(context(), named(name), 'New');
  const found = async (find: string) =>
    (await shelf(context(), { find, page: 1 })).layouts.map(({ document }) => document.name).sort();
  expect(await found('gauge')).toEqual(['Gauge 100%', 'Gauge_7']);
  expect(await found('100%')).toEqual(['Gauge 100%']);
  expect(await found('_')).toEqual(['Gauge_7']);
  expect(await found('Küste')).toEqual(['Küste']);
  expect(await found('tide-log')).toEqual(['Tide log']);
  expect(await found("' or 1=1 --")).toEqual([]);
  expect(await found('\\')).toEqual([]);
  expect(await found('  ')).toHaveLength(4);
});

test('what is damaged stands apart, and what is put away is not counted', async () => {
  const one = await createLayout(context(), named('Sound'), 'New');
  const two = await createLayout(context(), named('Broken'), 'New');
  await putAway(context(), (await createLayout(context(), named('Away'), 'New')).id, true);
  await context().db.write((tx) =>
    tx.run(sql`update revisions set document = '{"name": "Bro' where layout_id = ${two.id}`),
  );
  const view = await shelf(context(), { page: 1 });
  expect(view.layouts.map(({ id }) => id)).toEqual([one.id]);
  expect(view.damaged).toMatchObject([{ id: two.id, readable: null }]);
  expect(view.total).toBe(2);
  expect((await shelf(context(), { find: 'broken', page: 1 })).damaged).toHaveLength(1);
});

test('what lies strange in the folder of images is told, and passed over', async () => {
  const at = (name: string) => path.join(context().folder.images, name);
  writeFileSync(at('sound.img'), 'tide');
  mkdirSync(at('folder'));
  symlinkSync('/etc/hostname', at('link'));
  execFileSync('mkfifo', [at('pipe')]);
  writeFileSync(at('a\\b'), '');
  mkdirSync(at('.hidden'));
  expect((await listImageFiles(context())).map(({ name }) => name)).toEqual(['sound.img']);
  expect(await strangeFiles(context())).toEqual([
    { name: 'a\\b', what: 'a file with a name that is none here' },
    { name: 'folder', what: 'a folder' },
    { name: 'link', what: 'a link' },
    { name: 'pipe', what: 'a pipe' },
  ]);
  for (const name of ['pipe', 'folder', 'link'])
    await expect(surveyImage(context(), { of: `file:${name}` })).rejects.toMatchObject({
      status: 422,
      code: 'not-a-plain-file',
    });
});
