/** Every request is answered, whatever it asks for and however; with an id, and headers that keep it from strangers. */
import { readdirSync, readFileSync } from 'node:fs';
import { connect } from 'node:net';
import path from 'node:path';
import { ownContext } from '@tests/own-context';
import { type Served, served } from '@tests/served';
import { installLog, type Level } from '../log';
import { pagePolicy } from './headers';
import { allowed, type Method, routeOf, ROUTES } from './routes';
import { targetOf } from './target';

const { context } = ownContext();
let server: Served;
let failing = false;
const logged: { level: Level; facts: Readonly<Record<string, unknown>>; sentence: string }[] = [];

beforeEach(async () => {
  logged.length = 0;
  failing = false;
  installLog({ write: (level, facts, sentence) => logged.push({ level, facts, sentence }) });
  server = await served(context(), async (request, response) => {
    if (failing) throw new Error('a defect behind the front');
    await Promise.resolve();
    response.writeHead(200, { 'content-type': 'text/plain' }).end(String(request.headers['x-nonce']));
  });
});
afterEach(() => server.close());

/** Sends bytes as they are; resolves with what came back until the connection ended. */
function raw(bytes: string): Promise<string> {
  return new Promise((resolve, reject) => {
    const socket = connect(server.port, '127.0.0.1', () => socket.write(bytes));
    let said = '';
    socket.setTimeout(3000, () => socket.destroy(new Error(`no answer to ${JSON.stringify(bytes.slice(0, 80))}`)));
    socket.on('data', (chunk) => {
      said += chunk.toString('latin1');
    });
    socket.on('error', reject);
    socket.on('close', () => resolve(said));
  });
}

const asked = (method: string, target: string, more = '') =>
  raw(`${method} ${target} HTTP/1.1\r\nHost: 127.0.0.1:${server.port}\r\nConnection: close\r\n${more}\r\n`);
const statusOf = (said: string) => Number(/^HTTP\/1\.1 (\d{3})/.exec(said)?.[1]);

/** Targets that nobody means. */
const ODD = [
  '//',
  '///',
  '//tide.example/',
  '/%',
  '/%ff',
  '/%E0%A4',
  '/layouts/%',
  '/api/layouts/%C3%28',
  '/api/images/%2e%2e%2f%2e%2e%2fetc%2fpasswd',
  '/api/files/..%2f..%2fetc%2fpasswd',
  '/api/../api/../../etc/passwd',
  '/api/layouts/hasOwnProperty',
  '/api/layouts/__proto__/revisions/1',
  '/api/builds/constructor',
  '/api/surveys?hasOwnProperty=1',
  '/api/surveys?of=file:a&of=file:b',
  '/api/contents/stored?sha256=toString',
  '/api/contents/stored?__proto__=1',
  '/api/none',
  '/api',
  '/api/',
  '/_next/image?url=http://tide.example/a.png&w=64&q=1',
  `/api/layouts/${'a'.repeat(9000)}`,
  '/api/images/a\u0000b'.replace('\u0000', '%00'),
  '/?%=%&&&===',
  '/a;b=c/d',
  '/\\..\\..',
  '/api/health/%20',
];
const METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS', 'TRACE', 'PROPFIND', 'LOCK', 'PURGE'];

describe('odd requests', () => {
  test.each(ODD)('%s is answered, by every method', async (target) => {
    for (const method of METHODS) {
      const status = statusOf(await asked(method, target));
      expect([method, status, status >= 200 && status < 500]).toEqual([method, status, true]);
    }
  });

  test.each([
    ['OPTIONS * HTTP/1.1', 400],
    ['GET * HTTP/1.1', 400],
    ['GET http://tide.example/ HTTP/1.1', 400],
    ['TRACE / HTTP/1.1', 405],
    ['GET x HTTP/1.1', 400],
  ])('%s is answered with %d', async (line, status) => {
    const said = await raw(`${line}\r\nHost: 127.0.0.1:${server.port}\r\nConnection: close\r\n\r\n`);
    expect(statusOf(said)).toBe(status);
  });

  test('a foreign host, a foreign page, and what is no HTTP are refused', async () => {
    expect(statusOf(await raw('GET / HTTP/1.1\r\nHost: tide.example\r\nConnection: close\r\n\r\n'))).toBe(403);
    expect(statusOf(await asked('GET', '/', 'Origin: http://tide.example\r\n'))).toBe(403);
    expect(statusOf(await raw('what is this\r\n\r\n'))).toBe(400);
    expect(statusOf(await raw(`GET / HTTP/1.1\r\nX: ${'a'.repeat(40_000)}\r\n\r\n`))).toBe(431);
  });

  test('a body that nobody wants does not keep the answer back', async () => {
    const said = await asked('POST', '/api/none', 'Content-Length: 100000000\r\n');
    expect(statusOf(said)).toBe(404);
    expect(said.toLowerCase()).toContain('connection: close');
  });
});

describe('uploads that are refused', () => {
  const MUCH = 40_000_000;

  /** Sends a large body without waiting for an answer; resolves with what came back, whole or not. */
  function sending(target: string, expect: boolean): Promise<{ said: string; sent: number }> {
    return new Promise((resolve, reject) => {
      let [said, sent] = ['', 0];
      const socket = connect(server.port, '127.0.0.1');
      const piece = Buffer.alloc(256 * 1024, 1);
      const more = () => {
        while (sent < MUCH && !socket.destroyed) {
          const part = piece.subarray(0, Math.min(piece.length, MUCH - sent));
          sent += part.length;
          if (!socket.write(part)) return void socket.once('drain', more);
        }
      };
      socket.on('data', (chunk) => {
        said += chunk.toString('latin1');
        if (expect && said.startsWith('HTTP/1.1 100')) more();
      });
      socket.on('error', reject);
      socket.on('close', () => resolve({ said, sent }));
      socket.write(
        `PUT ${target} HTTP/1.1\r\nHost: 127.0.0.1:${server.port}\r\nContent-Length: ${MUCH}\r\n${expect ? 'Expect: 100-continue\r\n' : ''}\r\n`,
      );
      if (!expect) more();
    });
  }

  test.each(['/api/none', '/api/files/.hidden', '/api/contents/file?name=a/b', '/api/health'])(
    '%s: the sentence comes, and no broken pipe',
    async (target) => {
      const { said } = await sending(target, false);
      expect(statusOf(said)).toBeGreaterThanOrEqual(400);
      expect(said).toMatch(/\r\n\r\n\{"error":\{"code":"[a-z-]+","sentence":".*"\}\}$/);
      expect(said.toLowerCase()).toContain('connection: close');
    },
  );

  test('who asks first whether it is wanted sends nothing of what is not', async () => {
    const { said, sent } = await sending('/api/none', true);
    expect([statusOf(said), sent]).toEqual([404, 0]);
  });
});

test('a refused request without a body leaves its connection open', async () => {
  const answer = await fetch(`${server.base}/api/none`);
  expect([answer.status, answer.headers.get('connection')]).toEqual([404, 'keep-alive']);
});

test('a method that an address does not take is told which it does', async () => {
  const answer = await fetch(`${server.base}/api/images/abc`, { method: 'POST' });
  expect(answer.status).toBe(405);
  expect(answer.headers.get('allow')).toBe('GET, HEAD, OPTIONS');
  expect(await answer.json()).toMatchObject({
    error: { code: 'method-refused', sentence: 'This address takes GET, HEAD, and not POST.' },
  });
  const options = await fetch(`${server.base}/api/files/a.img`, { method: 'OPTIONS' });
  expect([options.status, options.headers.get('allow')]).toEqual([204, 'PUT, DELETE, OPTIONS']);
});

test('what goes wrong behind the front is answered, and logged under the id that the answer names', async () => {
  failing = true;
  const answer = await fetch(`${server.base}/layouts/a`);
  const id = answer.headers.get('x-request-id');
  expect(answer.status).toBe(500);
  expect(((await answer.json()) as { error: { sentence: string } }).error.sentence).toContain(id!);
  const [entry] = logged.filter(({ level }) => level === 'error');
  expect(entry).toMatchObject({ facts: { requestId: id } });
  expect((entry!.facts.error as Error).message).toBe('a defect behind the front');
});

test('pages have a policy with a nonce of their own, and everything keeps strangers out', async () => {
  const [one, two] = [await fetch(`${server.base}/`), await fetch(`${server.base}/`)];
  const nonces = [await one.text(), await two.text()];
  expect(new Set(nonces).size).toBe(2);
  for (const [i, page] of [one, two].entries()) {
    const policy = page.headers.get('content-security-policy')!;
    expect(policy).toBe(pagePolicy(nonces[i]!, false));
    expect(policy).toContain("frame-ancestors 'none'");
    expect(policy).not.toContain('unsafe-eval');
  }
  const data = await fetch(`${server.base}/api/health`);
  for (const answer of [one, data]) {
    expect(answer.headers.get('x-content-type-options')).toBe('nosniff');
    expect(answer.headers.get('cross-origin-resource-policy')).toBe('same-origin');
    expect(answer.headers.get('referrer-policy')).toBe('no-referrer');
  }
  expect(data.headers.get('content-security-policy')).toContain('sandbox');
});

test('health says what is under way', async () => {
  expect(await (await fetch(`${server.base}/api/health`)).json()).toMatchObject({
    state: 'ok',
    database: 'works',
    builds: 0,
  });
  expect(await (await fetch(`${server.base}/api/health`, { method: 'HEAD' })).text()).toBe('');
});

describe('the list of routes', () => {
  const files = (readdirSync('src/app/api', { recursive: true }) as string[]).filter((one) => one.endsWith('route.ts'));
  const OWN =
    /^\/api\/(health|images\/\[id\]|files\/\[name\]|contents\/(file|folder|archive|blob|layout|stored|volume))$/;

  test('names every route of the code with its methods, and no other', () => {
    const inCode = files.map((file) => {
      const text = readFileSync(path.join('src/app/api', file), 'utf8');
      const methods = [...text.matchAll(/^export (?:async )?function ([A-Z]+)/gm)].map(([, name]) => name!);
      return [`/api/${path.dirname(file)}`, methods.sort()] as const;
    });
    const listed = ROUTES.filter((one) => !OWN.test(one.path)).map(
      (one) => [one.path, Object.keys(one.methods).sort()] as const,
    );
    const byPath = (a: readonly [string, unknown], b: readonly [string, unknown]) => (a[0] < b[0] ? -1 : 1);
    expect(listed.toSorted(byPath)).toEqual(inCode.toSorted(byPath));
    expect(ROUTES.filter((one) => OWN.test(one.path))).toHaveLength(10);
  });

  test('is the one that docs/api.md has', () => {
    const page = readFileSync('docs/api.md', 'utf8');
    for (const { path: at, methods } of ROUTES)
      for (const [method, about] of Object.entries(methods))
        expect(page).toContain(`| \`${method} ${at}\` | ${about} |`);
  });

  test('prefers an address without brackets, and reads parts of the others', () => {
    expect(routeOf(['api', 'contents', 'trees'])!.route.path).toBe('/api/contents/trees');
    expect(routeOf(['api', 'layouts', 'a b', 'revisions', '7'])).toMatchObject({
      route: { path: '/api/layouts/[id]/revisions/[number]' },
      parts: { id: 'a b', number: '7' },
    });
    expect(routeOf(['api', 'surveys', 'sector'])!.route.path).toBe('/api/surveys/sector');
    for (const none of [['api'], ['api', ''], ['api', 'layouts', ''], ['api', 'layouts', 'a', 'b', 'c', 'd']])
      expect(routeOf(none)).toBeUndefined();
  });

  test('HEAD goes with GET, OPTIONS with all', () => {
    expect(allowed(['GET', 'POST'] satisfies Method[])).toEqual(['GET', 'HEAD', 'POST', 'OPTIONS']);
    expect(allowed(['PUT'])).toEqual(['PUT', 'OPTIONS']);
  });
});

test.each(['/', '/layouts/a?x=%ff', '/api/files/a%20b.img', '/%E6%BD%AE?a=1#b'])('the target %j can be read', (url) => {
  expect(targetOf(url).segments.length).toBeGreaterThan(0);
});
