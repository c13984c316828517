import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, truncateSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, layoutOn, noise } from '@tests/samples';
import { open } from 'node:fs/promises';
import { startBuild } from './builds';
import { type Context, openContext } from './context';
import { imagePath } from '../files/data-folder';
import { answerImage, imageAskedFor } from './download';
import { createLayout } from './layouts';

let root: string;
let context: Context;
let server: Server;
let base: string;
let id: string;

beforeAll(async () => {
  root = mkdtempSync(path.join(tmpdir(), 'loess-download-'));
  context = await openContext({ data: root });
  const { id: layoutId } = await createLayout(context, layoutOn('100000256 B', [fatPart('a', 'rest')]), 'New');
  ({ id } = await startBuild(context, { layoutId, revision: 1 }));
  await context.buildQueue.idle();
  // Something to get wrong: bytes of no pattern, across windows and up to the end.
  const file = await open(imagePath(context.folder, id), 'r+');
  await file.write(noise(3_000_000), 0, 3_000_000, 97_000_256);
  await file.close();
  server = createServer((request, response) => {
    void answerImage(context, imageAskedFor(request.url)!, request, response);
  }).listen(0, '127.0.0.1');
  // A connection is never closed for being idle: the next test may be about to use it.
  server.keepAliveTimeout = 0;
  await new Promise((resolve) => server.once('listening', resolve));
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api/images`;
});

afterAll(async () => {
  server.closeAllConnections();
  server.close();
  await context.close();
  rmSync(root, { recursive: true, force: true });
});

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

test('only addresses of images are taken', () => {
  const asked = (url: string) => {
    const { id, query } = imageAskedFor(url)!;
    return { id, query: String(query) };
  };
  expect(asked('/api/images/abc?as=gzip')).toEqual({ id: 'abc', query: 'as=gzip' });
  expect(asked('/api/images/abc')).toEqual({ id: 'abc', query: '' });
  expect(asked('/api/images/%ff')).toEqual({ id: '', query: '' });
  for (const url of ['/', '/api/images/', '/api/images/a/b', '/api/builds/abc', undefined])
    expect(imageAskedFor(url)).toBeUndefined();
});

test('raw is the file to the byte, with its length told before', async () => {
  const response = await fetch(`${base}/${id}`);
  expect(response.headers.get('content-length')).toBe('100000256');
  expect(response.headers.get('content-disposition')).toBe('attachment; filename="test-gauge-r1.img"');
  expect(sha256(new Uint8Array(await response.arrayBuffer()))).toBe(
    sha256(readFileSync(imagePath(context.folder, id))),
  );
});

test('gzip holds the same bytes', async () => {
  const response = await fetch(`${base}/${id}?as=gzip`);
  expect(response.headers.get('content-type')).toBe('application/gzip');
  const whole = await new Response(response.body!.pipeThrough(new DecompressionStream('gzip'))).arrayBuffer();
  expect(sha256(new Uint8Array(whole))).toBe(sha256(readFileSync(imagePath(context.folder, id))));
});

test('asking only for the head sends no byte', async () => {
  const response = await fetch(`${base}/${id}`, { method: 'HEAD' });
  expect([response.status, response.headers.get('content-length'), (await response.arrayBuffer()).byteLength]).toEqual([
    200,
    '100000256',
    0,
  ]);
});

test.each([
  ['GET', `/nobody`, 404, 'build-unknown'],
  ['GET', `/x?as=zip`, 400, 'form-unknown'],
  ['POST', `/x`, 405, 'method-refused'],
])('%s %s is refused with %d', async (method, url, status, code) => {
  const response = await fetch(base + url, { method });
  const { error } = (await response.json()) as { error: { code: string } };
  expect([response.status, error.code]).toEqual([status, code]);
});

test('a reader that leaves early does no harm', async () => {
  const leaving = new AbortController();
  const response = await fetch(`${base}/${id}`, { signal: leaving.signal });
  await response.body!.getReader().read();
  leaving.abort();
  await new Promise((resume) => setTimeout(resume, 50));
  expect((await fetch(`${base}/${id}`, { method: 'HEAD' })).status).toBe(200);
});

test('an image that shrinks while it is sent is not taken for whole', async () => {
  const response = await fetch(`${base}/${id}`);
  const reader = response.body!.getReader();
  await reader.read();
  truncateSync(imagePath(context.folder, id), 1_000_000);
  const rest = async () => {
    while (!(await reader.read()).done);
  };
  await expect(rest()).rejects.toThrow();
  expect((await fetch(`${base}/${id}`)).status).toBe(410);
});
