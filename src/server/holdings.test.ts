import { existsSync, utimesSync } from 'node:fs';
import { ownContext } from '@tests/own-context';
import { flip, HOUR, later, layoutWith, storedTreeOf } from '@tests/keeping';
import { layoutOn } from '@tests/samples';
import { imagePath } from '../files/data-folder';
import { storedPath } from '../files/stored';
import { sweep } from '../keeping/sweep';
import { getBuild, startBuild } from './builds';
import { carryOut, checkState, holdings } from './holdings';
import { readBodyBy } from './http';
import { createLayout } from './layouts';
import { FOLDER_ORDERS } from './requests/bodies';

const { context, stored } = ownContext();

/** A layout with an image that was built; the id of the build. */
async function built(): Promise<string> {
  const { id: layoutId } = await createLayout(context(), layoutOn('8 MiB'), 'Created');
  const { id } = await startBuild(context(), { layoutId, revision: 1 });
  await context().buildQueue.idle();
  return id;
}

test('what the folder holds is counted, in files and in bytes', async () => {
  await storedTreeOf(context(), 'kept');
  await built();
  const held = await holdings(context());
  expect(held.revisions.number).toBe(1);
  expect(held.contents).toMatchObject({ number: 2 });
  expect(held.builds.number).toBe(1);
  expect(held.builds.bytes).toBeLessThan(8 * 2 ** 20);
  expect(held.disk.free).toBeGreaterThan(0);
  expect(held).toMatchObject({ unnamed: { number: 0 }, doubts: [], trash: [], quarantine: [], overWithout: 0 });
});

test('what nothing names is told, moved by hand, and brought back', async () => {
  await sweep(context());
  await storedTreeOf(context(), 'lost');
  const old = new Date(Date.now() - 2 * HOUR);
  for (const name of stored()) utimesSync(storedPath(context().folder.store, name), old, old);
  await createLayout(context(), layoutOn('8 MiB'), 'Created');
  const tomorrow = later(context(), 25);
  expect((await holdings(tomorrow)).unnamed.number).toBe(2);
  const swept = await carryOut(tomorrow, { do: 'sweep' });
  expect(swept).toMatchObject({ unnamed: { number: 0 }, contents: { number: 0 }, trash: [{ number: 2 }] });
  await expect(carryOut(tomorrow, { do: 'bring back', day: '1999-01-01' })).rejects.toMatchObject({ status: 404 });
  const back = await carryOut(tomorrow, { do: 'bring back', day: swept.trash[0]!.day });
  expect(back).toMatchObject({ contents: { number: 2 }, trash: [] });
  await carryOut(tomorrow, { do: 'sweep' });
  expect(await carryOut(tomorrow, { do: 'empty the trash' })).toMatchObject({ trash: [], contents: { number: 0 } });
});

test('by hand nothing goes either while a list of files is damaged', async () => {
  await sweep(context());
  const kept = await storedTreeOf(context(), 'kept');
  await storedTreeOf(context(), 'lost');
  const old = new Date(Date.now() - 2 * HOUR);
  for (const name of stored()) utimesSync(storedPath(context().folder.store, name), old, old);
  await createLayout(context(), layoutWith(kept), 'Created');
  flip(storedPath(context().folder.store, kept), 30);
  await expect(carryOut(later(context(), 25), { do: 'sweep' })).rejects.toMatchObject({
    status: 409,
    code: 'not-known-what-is-named',
  });
  expect(stored()).toHaveLength(4);
});

test('a check is started once, can be stopped, and says what it came to', async () => {
  await built();
  const orders = await Promise.allSettled([1, 2].map(() => carryOut(context(), { do: 'check' })));
  expect(orders.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  expect(orders.find(({ status }) => status === 'rejected')).toMatchObject({ reason: { code: 'check-running' } });
  await context().checkQueue.idle();
  expect(checkState(context())).toMatchObject({ progress: null, report: { images: 1, damages: [] }, failure: null });
  await expect(carryOut(context(), { do: 'stop the check' })).rejects.toMatchObject({ code: 'check-over' });
  await carryOut(context(), { do: 'check' });
  await carryOut(context(), { do: 'stop the check' }).catch(() => undefined);
  await context().checkQueue.idle();
  expect(checkState(context()).progress).toBeNull();
});

test('builds that are over go together, with their images', async () => {
  const id = await built();
  expect(await carryOut(context(), { do: 'remove builds', which: 'without image' })).toMatchObject({
    builds: { number: 1 },
  });
  expect(await carryOut(context(), { do: 'remove builds', which: 'all' })).toMatchObject({ builds: { number: 0 } });
  expect(existsSync(imagePath(context().folder, id))).toBe(false);
  await expect(getBuild(context(), id)).rejects.toMatchObject({ status: 404 });
});

test('a limit of built images refuses what lies over it, and can be taken away', async () => {
  await carryOut(context(), { do: 'limit', contents: null, builds: 100 });
  await expect(built()).rejects.toMatchObject({ status: 409, code: 'limit-of-images' });
  expect((await carryOut(context(), { do: 'limit', contents: 5, builds: null })).limits).toEqual({
    contents: 5,
    builds: null,
  });
  await expect(storedTreeOf(context(), 'much more than five')).rejects.toMatchObject({ code: 'limit-of-contents' });
  await built();
});

test.each([
  [{ do: 'everything' }],
  [{ do: 'bring back', day: '../..' }],
  [{ do: 'bring back' }],
  [{ do: 'remove builds', which: 'most' }],
  [{ do: 'limit', contents: -1, builds: null }],
  [{ do: 'limit', contents: 1.5, builds: null }],
  [{ do: 'limit', contents: null }],
  [{ do: 'sweep', now: true }],
])('the order %j is refused', async (body) => {
  const request = new Request('http://127.0.0.1/', { method: 'POST', body: JSON.stringify(body) });
  await expect(readBodyBy(request, 'do', FOLDER_ORDERS)).rejects.toMatchObject({ status: 400 });
});
