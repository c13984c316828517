import { spawn } from 'node:child_process';
import {
  cpSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { createClient } from '@libsql/client';
import { flip, replaceBytes } from '@tests/keeping';
import { layoutOn } from '@tests/samples';
import { openContext } from '@/server/context';
import { createLayout, listLayouts } from '@/server/layouts';
import { backUp, restoreBackup } from './backup';
import { damagesIn, urlOf } from './database';

let root: string;
beforeEach(() => (root = mkdtempSync(path.join(tmpdir(), 'loess-database-'))));
afterEach(() => rmSync(root, { recursive: true, force: true }));

const data = () => path.join(root, 'data');
const inData = (name: string) => path.join(data(), name);
const QUIET = { signal: new AbortController().signal, onProgress: () => undefined };

/** Opens a context, works with it and closes it. */
async function within<T>(work: (context: Awaited<ReturnType<typeof openContext>>) => Promise<T>, options = {}) {
  const context = await openContext({ data: data(), ...options });
  try {
    return await work(context);
  } finally {
    await context.close();
  }
}

const withLayout = () => within((context) => createLayout(context, layoutOn('64 MiB'), 'Created'));

/** The migrations up to and without the last one. */
function olderMigrations(): string {
  const folder = path.join(root, 'older');
  cpSync('drizzle', folder, { recursive: true });
  const journal = path.join(folder, 'meta', '_journal.json');
  const { entries, ...rest } = JSON.parse(readFileSync(journal, 'utf8')) as { entries: { tag: string }[] };
  rmSync(path.join(folder, `${entries.at(-1)!.tag}.sql`));
  writeFileSync(journal, JSON.stringify({ ...rest, entries: entries.slice(0, -1) }));
  return folder;
}

/** Makes a database of an older version, with a layout in it. */
async function ofOlderVersion(): Promise<void> {
  await withLayout();
  const client = createClient({ url: urlOf(inData('loess.db')) });
  await client.execute('DROP TABLE steps');
  await client.execute('DROP TABLE settings');
  await client.execute(
    'DELETE FROM __drizzle_migrations WHERE created_at = (SELECT max(created_at) FROM __drizzle_migrations)',
  );
  client.close();
}

test('before a migration a copy is made, and it is the database as it was', async () => {
  await ofOlderVersion();
  await within(async (context) => expect(await listLayouts(context)).toHaveLength(1));
  const [copy] = readdirSync(inData('backups'));
  expect(copy).toMatch(/^before-0002.*\.db$/);
  const client = createClient({ url: urlOf(path.join(inData('backups'), copy!)) });
  expect((await client.execute('SELECT count(*) FROM revisions')).rows[0]![0]).toBe(1);
  await expect(client.execute('SELECT * FROM settings')).rejects.toThrow(/no such table/);
  client.close();
});

test('a new folder, and one that is up to date, get no copy', async () => {
  await withLayout();
  await withLayout();
  expect(readdirSync(inData('backups'))).toEqual([]);
});

test('a schema newer than the program is refused with a sentence, and nothing is changed', async () => {
  await withLayout();
  const before = readFileSync(inData('loess.db'));
  await expect(openContext({ data: data(), migrations: olderMigrations() })).rejects.toThrow(/newer version of Loess/);
  expect(readFileSync(inData('loess.db')).equals(before)).toBe(true);
  await withLayout();
});

test('behind an unclean end a damaged database is found, and refused', async () => {
  await within(async (context) => {
    for (let i = 0; i < 40; i++)
      await createLayout(context, { ...layoutOn('64 MiB'), story: 'x'.repeat(390) }, 'Created');
  });
  const damaged = readFileSync(inData('loess.db'));
  // A page of the index goes: a plain read of the shelf would not notice.
  damaged.fill(0xff, damaged.length - 3 * 4096, damaged.length - 2 * 4096);
  writeFileSync(inData('loess.db'), damaged);
  writeFileSync(inData('open'), '');
  await expect(openContext({ data: data() })).rejects.toThrow(/is damaged, .*restore a backup/);
  expect(readFileSync(inData('loess.db')).equals(damaged)).toBe(true);
});

test('what is no database at all is refused with the same sentence', async () => {
  await withLayout();
  writeFileSync(inData('loess.db'), 'no database, whatever its name '.repeat(400));
  await expect(openContext({ data: data() })).rejects.toThrow(/is damaged, .*restore a backup/);
});

test('a folder with any characters in its path is a data folder', async () => {
  const odd = path.join(root, 'a b%20#?é');
  const context = await openContext({ data: odd });
  await createLayout(context, layoutOn('64 MiB'), 'Created');
  await context.close();
  expect(existsSync(path.join(odd, 'loess.db'))).toBe(true);
});

describe('the lock', () => {
  const other = (folder: string) =>
    new Promise<string>((resolve) => {
      const code = `import('./src/server/context.ts').then(({ openContext }) => openContext({ data: ${JSON.stringify(folder)} })).then(() => { console.log('opened'); setInterval(() => 0, 1000); }, (error) => console.log(error.message));`;
      const child = spawn(process.execPath, ['--import', 'tsx', '-e', code], { stdio: ['ignore', 'pipe', 'ignore'] });
      child.stdout.once('data', (text: Buffer) => {
        const gone = new Promise((left) => child.once('exit', left));
        child.kill('SIGKILL');
        void gone.then(() => resolve(String(text).trim()));
      });
    });

  test('holds for another path to the same folder, and is dropped with a process that is killed', async () => {
    const link = path.join(root, 'link');
    await within(async () => {
      symlinkSync(data(), link);
      expect(await other(link)).toMatch(/in use by another server/);
      await expect(openContext({ data: link })).rejects.toThrow(/in use by another server/);
    });
    expect(await other(link)).toBe('opened');
    await within(() => Promise.resolve());
  });
});

describe('backups', () => {
  test('are made while a server works, brought up to date, and restored into a new folder', async () => {
    const backup = path.join(root, 'backup');
    const [folder] = await within(async (context) => {
      await createLayout(context, layoutOn('64 MiB'), 'Created');
      const { storedTreeOf, layoutWith } = await import('@tests/keeping');
      const tree = await storedTreeOf(context, 'kept');
      expect(await backUp(context.folder, backup, QUIET)).toMatchObject({ contents: 2, damaged: [] });
      await createLayout(context, layoutWith(tree), 'Created');
      expect(await backUp(context.folder, backup, QUIET)).toMatchObject({ contents: 2, copiedBytes: 0 });
      return [context.folder];
    });
    await expect(restoreBackup(backup, data(), QUIET)).rejects.toThrow(/is not empty/);
    await expect(backUp(folder!, inData('inside'), QUIET)).rejects.toThrow(/cannot lie in the data folder/);
    await expect(backUp(folder!, data(), QUIET)).rejects.toThrow(/cannot lie in the data folder/);
    rmSync(data(), { recursive: true });
    expect(await restoreBackup(backup, data(), QUIET)).toMatchObject({ contents: 2, damaged: [] });
    await within(async (context) => {
      expect((await listLayouts(context)).map(({ id }) => id).sort()).toEqual(['kept', 'test-gauge']);
      expect(await damagesIn(context.db.raw)).toEqual([]);
    });
  });

  test('leave out what is damaged, name it, and never take a damaged database', async () => {
    const backup = path.join(root, 'backup');
    const context = await openContext({ data: data() });
    const { storedTreeOf } = await import('@tests/keeping');
    const tree = await storedTreeOf(context, 'kept');
    flip(path.join(context.folder.store, tree.slice(0, 2), tree), 20);
    expect(await backUp(context.folder, backup, QUIET)).toMatchObject({ contents: 1, damaged: [tree] });
    await context.close();
    expect(replaceBytes(inData('loess.db'), 'SQLite format 3', 'SQLite formal 3')).toBe(1);
    await expect(backUp(context.folder, backup, QUIET)).rejects.toThrow(/is damaged/);
    await expect(backUp({ ...context.folder, database: inData('none.db') }, backup, QUIET)).rejects.toThrow(
      /no database/,
    );
    await restoreBackup(backup, path.join(root, 'restored'), QUIET);
  });
});
