import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, readdirSync, readlinkSync, rmSync, truncateSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, layoutOn, noise } from '@tests/samples';
import { type Served, served } from '@tests/served';
import { open } from 'node:fs/promises';
import { until } from '@tests/until';
import { startBuild } from './builds';
import { type Context, openContext } from './context';
import { imagePath } from '../files/data-folder';
import { createLayout } from './layouts';

let root: string;
let context: Context;
let server: Served;
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
  server = await served(context);
  base = `${server.base}/api/images`;
});

afterAll(async () => {
  server.close();
  await context.close();
  rmSync(root, { recursive: true, force: true });
});

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

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

describe('parts', () => {
  const whole = () => readFileSync(imagePath(context.folder, id));
  const part = async (range: string, more: Record<string, string> = {}) => {
    const answer = await fetch(`${base}/${id}`, { headers: { range, ...more } });
    return { answer, bytes: Buffer.from(await answer.arrayBuffer()) };
  };

  test.each([
    ['bytes=0-0', 0, 1],
    ['bytes=97000256-97000300', 97_000_256, 45],
    ['bytes=99999000-', 99_999_000, 1256],
    ['bytes=-700', 99_999_556, 700],
    ['bytes=99999000-999999999999', 99_999_000, 1256],
    ['bytes=-99999999999', 0, 100_000_256],
  ])('%s', async (range, first, length) => {
    const { answer, bytes } = await part(range);
    expect([answer.status, answer.headers.get('content-range'), bytes.length]).toEqual([
      206,
      `bytes ${first}-${first + length - 1}/100000256`,
      length,
    ]);
    expect(bytes.equals(whole().subarray(first, first + length))).toBe(true);
  });

  test.each(['bytes=5-3', 'bytes=-', 'lines=1-2', 'bytes=0-1,4-5', 'bytes=a-b', 'bytes=1'])(
    '“%s” is none that can be read: all is sent',
    async (range) => {
      const answer = await fetch(`${base}/${id}`, { method: 'HEAD', headers: { range } });
      expect([answer.status, answer.headers.get('content-length')]).toEqual([200, '100000256']);
    },
  );

  test.each(['bytes=100000256-', 'bytes=100000256-100000300', 'bytes=-0'])('%s lies behind the end', async (range) => {
    const { answer, bytes } = await part(range);
    expect([answer.status, answer.headers.get('content-range')]).toEqual([416, 'bytes */100000256']);
    expect(JSON.parse(bytes.toString())).toMatchObject({ error: { code: 'range-beyond-the-end', field: 'range' } });
  });

  test('a download goes on where it broke off, and only if it is of the same bytes', async () => {
    const head = await fetch(`${base}/${id}`, { method: 'HEAD' });
    expect(head.headers.get('accept-ranges')).toBe('bytes');
    const tag = head.headers.get('etag')!;
    expect((await part('bytes=99999256-', { 'if-range': tag })).answer.status).toBe(206);
    const other = await fetch(`${base}/${id}`, {
      method: 'HEAD',
      headers: { range: 'bytes=5-', 'if-range': '"other"' },
    });
    expect([other.status, other.headers.get('content-length')]).toEqual([200, '100000256']);
    expect((await fetch(`${base}/${id}`, { headers: { 'if-none-match': `"x", ${tag}` } })).status).toBe(304);
  });

  test('of gzip, which is made on the way, none are offered', async () => {
    const answer = await fetch(`${base}/${id}?as=gzip`, { method: 'HEAD', headers: { range: 'bytes=0-5' } });
    expect([answer.status, answer.headers.get('accept-ranges'), answer.headers.get('content-length')]).toEqual([
      200,
      'none',
      null,
    ]);
  });
});

/** How often this process has the image open. */
function opened(): number {
  const file = imagePath(context.folder, id);
  return readdirSync('/proc/self/fd').filter((one) => {
    try {
      return readlinkSync(`/proc/self/fd/${one}`) === file;
    } catch {
      return false;
    }
  }).length;
}

test('a client that takes nothing and leaves frees its file', async () => {
  const stalled = Array.from({ length: 5 }, () => {
    const socket = connect(server.port, '127.0.0.1');
    socket.pause();
    socket.on('error', () => undefined);
    socket.write(`GET /api/images/${id} HTTP/1.1\r\nHost: 127.0.0.1:${server.port}\r\n\r\n`);
    return socket;
  });
  await until(() => opened() === 5);
  for (const socket of stalled) socket.destroy();
  await until(() => opened() === 0);
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
  await until(() => opened() === 0);
  expect((await fetch(`${base}/${id}`, { method: 'HEAD' })).status).toBe(200);
});

test('an image that shrinks while it is sent is not taken for whole', async () => {
  jest.spyOn(console, 'error').mockImplementation(() => undefined);
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
