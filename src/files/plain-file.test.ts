/** What stands where a plain file should be is told at once, and never waited for. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { NotPlain, openPlain } from './plain-file';

let folder: string;
const at = (name: string) => path.join(folder, name);
beforeEach(() => (folder = mkdtempSync(path.join(tmpdir(), 'loess-plain-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

test('a plain file is opened', async () => {
  writeFileSync(at('file'), 'tide');
  const handle = await openPlain(at('file'));
  expect(await handle.readFile('utf8')).toBe('tide');
  await handle.close();
});

test.each<[string, (name: string) => unknown]>([
  ['a folder', (name) => mkdirSync(name)],
  ['a pipe', (name) => execFileSync('mkfifo', [name])],
  ['a link', (name) => symlinkSync('/etc/hostname', name)],
  [
    'a socket',
    (name) =>
      new Promise((resolve) =>
        createServer()
          .listen(name, () => resolve(undefined))
          .unref(),
      ),
  ],
])('%s is refused', async (what, make) => {
  await make(at('strange'));
  await expect(openPlain(at('strange'))).rejects.toMatchObject({ what });
  await expect(openPlain(at('strange'))).rejects.toBeInstanceOf(NotPlain);
});

test('where a person named it a link is followed, and a pipe behind it is still one', async () => {
  writeFileSync(at('file'), 'tide');
  symlinkSync(at('file'), at('link'));
  await (await openPlain(at('link'), 'followed')).close();
  execFileSync('mkfifo', [at('pipe')]);
  symlinkSync(at('pipe'), at('to-pipe'));
  await expect(openPlain(at('to-pipe'), 'followed')).rejects.toMatchObject({ what: 'a pipe' });
});

test('a device is none, and what is not there is only not there', async () => {
  await expect(openPlain('/dev/null')).rejects.toMatchObject({ what: 'a device' });
  await expect(openPlain(at('none'))).rejects.toMatchObject({ code: 'ENOENT' });
});
