/** Every request is answered by the server as it runs: odd ones to all addresses, the walk of docs/api.md, pages in frames. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { ROUTES } from '../src/server/front/routes';
import { oneOf } from '../tests/tier';
import { expect, newLayout, test } from './fixtures';

const PAGES = [
  '/',
  '/new',
  '/bench',
  '/data',
  '/surveys',
  '/layouts/[id]',
  '/layouts/[id]/build',
  '/layouts/[id]/contents',
  '/layouts/[id]/fit',
];
/** What is put in place of a part in brackets. */
const PARTS = ['hasOwnProperty', '__proto__', '..%2f..', '%ff', '%00', '%', 'a'.repeat(300), '%F0%9F%8C%8A'];
const QUERIES = [
  '',
  '?of=file:%2e%2e',
  '?of=file:a&of=file:b',
  '?hasOwnProperty=1',
  '?__proto__[x]=1',
  '?%=%ff',
  `?of=${'a'.repeat(3000)}`,
];
const METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS', 'TRACE'];
const BODIES = ['', '{}', '[]', 'null', '{"__proto__":{"a":1}}', '\u00ff\u00fe{'];

/** The status of the answer to a request of these bytes; what nobody answers within five seconds is 0. */
function statusOf(port: number, method: string, target: string, body: string): Promise<number> {
  return new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1');
    let said = '';
    const end = () => resolve(Number(/^HTTP\/1\.1 (\d{3})/.exec(said)?.[1] ?? 0));
    socket.setTimeout(5000, () => socket.destroy());
    socket.on('data', (chunk) => (said += chunk.toString('latin1')));
    socket.on('error', () => undefined);
    socket.on('close', end);
    socket.write(
      `${method} ${target} HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nConnection: close\r\nContent-Type: application/json\r\nContent-Length: ${Buffer.byteLength(body, 'latin1')}\r\n\r\n`,
    );
    socket.write(Buffer.from(body, 'latin1'));
  });
}

test('odd requests to every address are answered, and none is a fault', async ({ baseURL, request }) => {
  // Some of them put a layout away, and bring it back: one of their own.
  const parts = [await newLayout(request, 'Asked oddly'), ...PARTS];
  const port = Number(new URL(baseURL!).port);
  const targets = [...ROUTES.map(({ path: at }) => at), ...PAGES].flatMap((at) =>
    (at.includes('[') ? parts : ['']).flatMap((part, i) => {
      const whole = at.replace(/\[\w+\]/g, part);
      return [whole, whole + QUERIES[i % QUERIES.length]!];
    }),
  );
  const asked = targets.flatMap((target, i) =>
    METHODS.map((method, k) => ({ method, target, body: BODIES[(i + k) % BODIES.length]! })),
  );
  const wrong: string[] = [];
  const work = oneOf(5, asked).values();
  await Promise.all(
    Array.from({ length: 8 }, async () => {
      for (const { method, target, body } of work) {
        const status = await statusOf(port, method, target, ['GET', 'HEAD'].includes(method) ? '' : body);
        if (status < 200 || status >= 500) wrong.push(`${status} ${method} ${target.slice(0, 120)} ${body}`);
      }
    }),
  );
  expect(asked.length).toBeGreaterThan(2500);
  expect(wrong).toEqual([]);
});

test('the walk of docs/api.md goes as it is written', ({ baseURL }) => {
  const page = readFileSync('docs/api.md', 'utf8');
  const script = /```sh\n([^]*?)```/.exec(page)![1]!;
  const folder = mkdtempSync(path.join(tmpdir(), 'loess-walk-'));
  try {
    const said = execFileSync('bash', ['-eu', '-o', 'pipefail', '-c', script], {
      cwd: folder,
      env: { ...process.env, LOESS: baseURL! },
      encoding: 'utf8',
    });
    expect(said.trim()).toBe('1');
    const image = readFileSync(path.join(folder, 'gauge.img'));
    expect(image.length).toBe(64 * 2 ** 20);
    expect(image.includes('ebb, flood\r\n')).toBe(true);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});

test('a page cannot be shown in a frame, and none of its scripts is without its nonce', async ({
  browser,
  baseURL,
}) => {
  // The browser says in the console that it does not show the frame: a page that nobody listens to.
  const page = await browser.newPage();
  const answer = await page.goto(`${baseURL!}/layouts/gauge-logger`);
  const policy = answer!.headers()['content-security-policy']!;
  expect(policy).toContain("frame-ancestors 'none'");
  const nonce = /'nonce-([^']+)'/.exec(policy)![1]!;
  const scripts = await page
    .locator('script')
    .evaluateAll((all) => all.map((one) => [(one as HTMLScriptElement).nonce, (one as HTMLScriptElement).src]));
  expect(scripts.length).toBeGreaterThan(3);
  for (const [own, source] of scripts) expect(own === nonce || source!.startsWith(baseURL!)).toBe(true);
  const framed = await page
    .evaluate(async (url) => {
      const frame = document.createElement('iframe');
      frame.src = url;
      document.body.append(frame);
      await new Promise((resolve) => frame.addEventListener('load', resolve));
      return frame.contentDocument?.querySelector('h1')?.textContent ?? 'nothing';
    }, '/data')
    .catch(() => 'nothing');
  expect(framed).toBe('nothing');
  await page.close();
});
