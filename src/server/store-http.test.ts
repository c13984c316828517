/** Contents over the wire: uploads and downloads, whole or refused, and what is left of one that breaks off. */
import { readdirSync } from 'node:fs';
import { request } from 'node:http';
import path from 'node:path';
import { tarOf } from '@tests/archives';
import { served } from '@tests/served';
import { ownContext } from '@tests/own-context';
import { until } from '@tests/until';
import type { TreeView } from '@/contract/contents';
import { copiedOf, filesOf, type TreeFile } from '@/core/filesystems/tree';
import { treeAsWritten } from '@/core/filesystems/tree-text';
import type { Context } from './context';
import { UPLOAD_LIMIT } from '../files/uploaded';
import { storedFile } from './store';

let context: Context;
const { context: opened, root } = ownContext();
beforeEach(() => {
  context = opened();
});

/** Everything that lies in the data folder beside the database, unfinished or not. */
function stored(): string[] {
  return readdirSync(root(), { recursive: true, withFileTypes: true })
    .filter((one) => one.isFile() && !one.name.includes('.db') && !['open', 'database.json'].includes(one.name))
    .map((one) => one.name);
}

async function serving<T>(work: (base: string) => Promise<T>): Promise<T> {
  const { base, close } = await served(context);
  try {
    return await work(`${base}/api/contents`);
  } finally {
    close();
  }
}

test('a file goes there and back, with its name', () =>
  serving(async (base) => {
    const put = await fetch(`${base}/file?name=${encodeURIComponent('Übersicht.csv')}&time=2026-03-01T12:00:00`, {
      method: 'PUT',
      body: 'tide',
    });
    expect(put.status).toBe(201);
    const view = (await put.json()) as { entries: { sha256: string }[] };
    const got = await fetch(
      `${base}/stored?sha256=${view.entries[0]!.sha256}&name=${encodeURIComponent('Übersicht.csv')}`,
    );
    expect(await got.text()).toBe('tide');
    expect(got.headers.get('content-disposition')).toBe("attachment; filename*=UTF-8''%C3%9Cbersicht.csv");
    expect((await storedFile(context, view.entries[0]!.sha256)).size).toBe(4);
  }));

test('a file that lies in an archive is fetched as a part of it', () =>
  serving(async (base) => {
    const tar = await tarOf([
      { name: 'a.txt', content: 'tide' },
      { name: 'empty', content: '' },
      { name: 'b.txt', content: 'level' },
    ]);
    const put = await fetch(`${base}/archive`, { method: 'PUT', body: new Uint8Array(tar) });
    const view = (await put.json()) as TreeView;
    const part = (file: TreeFile) => {
      const { from, at, length } = copiedOf(file);
      return fetch(`${base}/stored?sha256=${from}&name=x&at=${at}&length=${length}`);
    };
    const texts = await Promise.all(filesOf(treeAsWritten(view)).map(async (file) => (await part(file)).text()));
    expect(texts).toEqual(['tide', '', 'level']);
    const { sha256, size } = view.archives![0]!;
    const beyond = await fetch(`${base}/stored?sha256=${sha256}&at=${size}&length=5`);
    expect([beyond.status, ((await beyond.json()) as { error: { code: string } }).error.code]).toEqual([
      404,
      'content-ends-before',
    ]);
    expect((await fetch(`${base}/stored?sha256=${sha256}&at=-1&length=5`)).status).toBe(400);
  }));

test.each([
  ['a download of what is not there', 'stored?sha256=zz', 'GET', 404],
  ['a method that is not meant', 'file?name=a', 'POST', 405],
  ['a name with a slash', 'file?name=a%2Fb', 'PUT', 400],
  ['a tree that is not there', `file?name=a&into=${'0'.repeat(64)}`, 'PUT', 404],
  ['a folder that leaves', 'file?name=a&under=..', 'PUT', 400],
  ['a volume of no image', 'volume?of=file:none.img&partition=1&path=a', 'GET', 404],
])('%s is refused', (_, url, method, status) =>
  serving(async (base) => {
    const answer = await fetch(`${base}/${url}`, { method, ...(method === 'GET' ? {} : { body: 'x' }) });
    expect(answer.status).toBe(status);
    expect(stored()).toEqual([]);
  }),
);

/** Sends the head of an upload and some of its body, then what `end` does; resolves with the answer, or undefined without one. */
function begun(
  base: string,
  url: string,
  headers: Readonly<Record<string, string>>,
  body: string | Uint8Array,
  end: (sent: ReturnType<typeof request>) => void,
): Promise<{ status: number; code: string } | undefined> {
  return new Promise((resolve) => {
    const sent = request(`${base}/${url}`, { method: 'PUT', headers }, (answer) => {
      let text = '';
      answer.on('data', (chunk: Buffer) => (text += chunk.toString()));
      answer.on('end', () =>
        resolve({ status: answer.statusCode!, code: (JSON.parse(text) as { error: { code: string } }).error.code }),
      );
    });
    sent.on('error', () => resolve(undefined));
    sent.write(body, () => end(sent));
  });
}

test('an upload that says no length, or too long a one, is refused before it is sent', () =>
  serving(async (base) => {
    const end = () => undefined;
    expect(await begun(base, 'file?name=a', {}, 'x', end)).toEqual({ status: 411, code: 'length-missing' });
    const headers = { 'content-length': String(UPLOAD_LIMIT + 1) };
    expect(await begun(base, 'blob?name=a', headers, 'x', end)).toEqual({ status: 413, code: 'upload-too-large' });
    expect(stored()).toEqual([]);
  }));

test.each(['file?name=a', 'blob?name=a', 'archive?under=', 'folder?under='])(
  'an upload to %s whose line is cut leaves nothing, and the server goes on',
  (url) =>
    serving(async (base) => {
      // A folder comes as a tar; to the others it is bytes like all others.
      const body = (await tarOf([{ name: 'readings', content: 'x'.repeat(400_000) }])).subarray(0, 70_000);
      const cut = (sent: ReturnType<typeof request>) =>
        void until(() => stored().length > 0).then(() => sent.destroy());
      expect(await begun(base, url, { 'content-length': '500000' }, body, cut)).toBeUndefined();
      await until(() => stored().length === 0 && readdirSync(path.join(context.folder.store, 'intake')).length === 0);
      expect((await fetch(`${base}/file?name=b`, { method: 'PUT', body: 'whole' })).status).toBe(201);
    }),
);
