import { existsSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { ownContext } from '@tests/own-context';
import { flip, HOUR, later, layoutWith, storedTreeOf } from '@tests/keeping';
import { storedPath } from '../files/stored';
import { type Context, openContext } from '@/server/context';
import { createLayout, saveRevision } from '@/server/layouts';
import { getTree } from '@/server/store';
import { copyDatabase } from './database';
import { revisions } from './schema';
import { sweep } from './sweep';
import { bringBackDay, emptyTrash, trashDays } from './trash';

const { context, root, stored } = ownContext();
const DAY = 24;

/** Two trees, one of them named by a layout that was saved after both came; each a day old. */
async function oneNamed(): Promise<{ kept: string; lost: string }> {
  await sweep(context());
  const kept = await storedTreeOf(context(), 'kept');
  const lost = await storedTreeOf(context(), 'lost');
  const old = new Date(Date.now() - 2 * HOUR);
  for (const name of stored()) utimesSync(storedPath(context().folder.store, name), old, old);
  await createLayout(context(), layoutWith(kept), 'Created');
  return { kept, lost };
}

/** Closes the context and opens another on the same folder; the caller closes it. */
async function reopened(change: () => void, check: (next: Context) => Promise<void>): Promise<void> {
  await context().close();
  change();
  const next = await openContext({ data: root() });
  try {
    await check(next);
  } finally {
    await next.close();
  }
}

test('what no revision names goes to the trash after a day, and nothing that one names', async () => {
  const { lost } = await oneNamed();
  const before = stored();
  expect(await sweep(context())).toEqual({ number: 0, bytes: 0, doubts: [] });
  expect(await sweep(later(context(), DAY))).toMatchObject({ number: 2, doubts: [] });
  const [day] = await trashDays(context().folder);
  expect(day).toMatchObject({ files: 2 });
  expect(stored()).toHaveLength(2);
  const log = readFileSync(path.join(context().folder.trash, day!.day, 'moved.txt'), 'utf8');
  expect(log.trim().split('\n')).toHaveLength(2);
  expect(log).toContain(lost);
  expect(await bringBackDay(context().folder, day!.day)).toBe(2);
  expect(stored().sort()).toEqual(before.sort());
  expect(await trashDays(context().folder)).toEqual([]);
});

test('the trash is emptied after thirty days, not before', async () => {
  await oneNamed();
  await sweep(later(context(), DAY));
  const at = (days: number) => new Date(Date.now() + (days + 1) * DAY * HOUR).toISOString();
  expect(await emptyTrash(context().folder, 'over', at(30))).toEqual([]);
  expect(await emptyTrash(context().folder, 'over', at(31))).toMatchObject([{ files: 2 }]);
  expect(await trashDays(context().folder)).toEqual([]);
});

test('what lies in the trash comes back when a revision names it again', async () => {
  const { lost } = await oneNamed();
  await sweep(later(context(), DAY));
  expect(existsSync(storedPath(context().folder.store, lost))).toBe(false);
  await saveRevision(context(), 'kept', { base: 1, document: layoutWith(lost), note: 'Back' });
  const { entries } = await getTree(context(), lost);
  expect(existsSync(storedPath(context().folder.store, (entries[0] as { sha256: string }).sha256))).toBe(true);
});

test('files that a young list of files needs stay, however old they are', async () => {
  await oneNamed();
  const young = await storedTreeOf(context(), 'lost');
  const { entries } = await getTree(context(), young);
  const [file] = entries as unknown as readonly { sha256: string }[];
  const long = new Date(Date.now() - 90 * DAY * HOUR);
  utimesSync(storedPath(context().folder.store, file!.sha256), long, long);
  await sweep(later(context(), 2));
  expect(stored()).toContain(file!.sha256);
});

describe('nothing goes while it is not known for certain what is named', () => {
  const sweptLater = (one: Context) => sweep(later(one, DAY));

  test('a byte of a list of files has changed', async () => {
    const { kept } = await oneNamed();
    flip(storedPath(context().folder.store, kept), 40);
    const swept = await sweptLater(context());
    expect(swept).toMatchObject({ number: 0 });
    expect(swept.doubts[0]).toMatch(/The list of files .* that “kept” names is damaged/);
    expect(stored()).toHaveLength(4);
    // Not even by hand: nobody knows which files it named.
    expect(await sweep(later(context(), DAY), { byHand: true })).toMatchObject({ number: 0 });
  });

  test('a revision is damaged', async () => {
    await oneNamed();
    await context().db.write((tx) => tx.update(revisions).set({ document: '{"format":' }));
    expect((await sweptLater(context())).doubts[0]).toMatch(/Revision 1 of “kept” cannot be read/);
    expect(stored()).toHaveLength(4);
  });

  test('a revision names what is not stored: automatically nothing goes, by hand it does', async () => {
    const { kept } = await oneNamed();
    rmSync(storedPath(context().folder.store, kept));
    expect((await sweptLater(context())).doubts[0]).toMatch(/is not stored/);
    expect(await sweep(later(context(), DAY), { byHand: true })).toMatchObject({ doubts: [] });
  });

  test('the database is gone, and a new one was made, however often the server starts', async () => {
    await oneNamed();
    const lose = () => ['', '-wal', '-shm'].forEach((end) => rmSync(context().folder.database + end, { force: true }));
    await reopened(lose, async (next) => {
      await createLayout(next, layoutWith('0'.repeat(64), 'Another'), 'Created').catch(() => undefined);
      expect(await sweptLater(next)).toMatchObject({ number: 0 });
    });
    const again = await openContext({ data: root() });
    expect((await sweptLater(again)).number).toBe(0);
    await again.close();
    expect(stored()).toHaveLength(4);
  });

  test('the database is an older copy than the contents were kept for', async () => {
    const { kept, lost } = await oneNamed();
    const copy = path.join(root(), 'copy.db');
    await copyDatabase(context().db.raw, copy);
    await saveRevision(context(), 'kept', { base: 1, document: layoutWith(lost), note: 'Both' });
    const bytes = readFileSync(copy);
    const putBack = () => {
      for (const end of ['', '-wal', '-shm']) rmSync(context().folder.database + end, { force: true });
      writeFileSync(context().folder.database, bytes);
    };
    await reopened(putBack, async (next) => {
      expect((await sweptLater(next)).doubts[0]).toMatch(/older than the contents/);
      expect(stored()).toContain(kept);
      expect(stored()).toContain(lost);
    });
  });

  test('the clock is behind the last save', async () => {
    await oneNamed();
    await sweep(context());
    const old = new Date(Date.now() - 400 * DAY * HOUR);
    for (const name of stored()) utimesSync(storedPath(context().folder.store, name), old, old);
    expect((await sweep(later(context(), -3 * DAY))).doubts[0]).toMatch(/clock/);
    expect(stored()).toHaveLength(4);
  });

  test('what came after the last save stays: a save may be missing', async () => {
    await oneNamed();
    const late = await storedTreeOf(context(), 'late');
    await sweptLater(context());
    expect(stored()).toContain(late);
  });
});
