/** The log of a database is synced beside other work: who waits for which sync, and what a failed one means. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { type FileHandle, open } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { turn, until } from '@tests/until';
import { LogSync } from './log-sync';

let folder: string;
let file: string;
let syncs: jest.SpyInstance<Promise<void>>;

beforeEach(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-log-'));
  file = path.join(folder, 'a.db');
  writeFileSync(`${file}-wal`, 'frames');
  const handle = await open(`${file}-wal`);
  syncs = jest.spyOn(Object.getPrototypeOf(handle) as FileHandle, 'datasync');
  await handle.close();
});
afterEach(() => {
  syncs.mockRestore();
  rmSync(folder, { recursive: true, force: true });
});

test('those who ask together wait for one sync, and whoever asks later for another one', async () => {
  const log = new LogSync(file);
  let release: () => void = () => undefined;
  syncs.mockImplementationOnce(() => new Promise((resolve) => (release = resolve)));
  const first = Promise.all([log.done(), log.done()]);
  await until(() => syncs.mock.calls.length === 1);
  let isDone = false;
  const later = log.done().then(() => (isDone = true));
  await turn();
  expect([syncs.mock.calls.length, isDone]).toEqual([1, false]);
  release();
  await Promise.all([first, later]);
  expect(syncs).toHaveBeenCalledTimes(2);
});

test('behind a failed sync nothing is told to be there, until the log is begun anew', async () => {
  const log = new LogSync(file);
  syncs.mockRejectedValueOnce(Object.assign(new Error('EIO: i/o error'), { code: 'EIO' }));
  const [one, other] = await Promise.allSettled([log.done(), log.done()]);
  expect([one.status, other.status]).toEqual(['rejected', 'rejected']);
  expect(log.isBroken).toBe(true);
  await expect(log.done()).rejects.toMatchObject({ code: 'EIO' });
  expect(syncs).toHaveBeenCalledTimes(1);
  log.begunAnew();
  await log.done();
  expect([syncs.mock.calls.length, log.isBroken]).toEqual([2, false]);
});

test('where there is no log, all of it is in the file', async () => {
  rmSync(`${file}-wal`);
  await new LogSync(file).done();
  expect(syncs).not.toHaveBeenCalled();
});
