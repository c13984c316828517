import { validateLayout } from '@/core/layout/validate';
import { refuseStranger } from './guard';
import { BODY_LIMIT, errorAnswer, readBody, readBodyBy, readPath, readQuery, respond } from './http';
import { Refusal } from './refusal';
import { CreateLayoutBody, MoveBody, SaveRevisionBody, StartBuildBody, TREE_CHANGES } from './requests/bodies';
import { checkedHeaders, checkedParts, checkedQuery, pageQuery } from './requests/check';
import { LayoutPath, RevisionPath, TreePath } from './requests/paths';
import { ComparePageQuery, SectorQuery, SurveyPageQuery, VolumeQuery } from './requests/queries';
import { ArchiveUpload, ContentHeaders, FileUpload } from './requests/uploads';

const post = (body: unknown) =>
  new Request('http://127.0.0.1/', { method: 'POST', body: typeof body === 'string' ? body : JSON.stringify(body) });

describe('queries', () => {
  const asked = (query: string) => new Request(`http://127.0.0.1/?${query}`);

  test('only what is a number is read as one', () => {
    expect({
      ...readQuery(asked('of=build:7&sector=42&sectorSize=512'), SectorQuery),
    }).toEqual({
      of: 'build:7',
      sector: 42,
      sectorSize: 512,
    });
    // A folder may be called 2026, and a partition is called 3.
    expect({ ...readQuery(asked('of=build:7&partition=3&path=2026'), VolumeQuery) }).toEqual({
      of: 'build:7',
      partition: '3',
      path: '2026',
    });
  });

  test.each([
    ['of=build:7&sector=x', 'sector'],
    ['of=build:7&sector=-1', 'sector'],
    ['of=build:7&sector=99999999999999999999', 'sector'],
    ['of=build:7', 'sector'],
    ['of=build:7&sector=1&more=2', 'more'],
    ['of=b&sector=1', 'of'],
    ['of=build:7&sector=1&sector=2', 'sector'],
    ['of=build:7&sector=1&__proto__=2', '__proto__'],
  ])('“%s” is refused for its field “%s”', (query, field) => {
    expect(() => readQuery(asked(query), SectorQuery)).toThrow(
      expect.objectContaining({ status: 400, code: 'query-invalid', field }) as Error,
    );
  });
});

describe('bodies', () => {
  test('a good body comes back as its class', async () => {
    const body = await readBody(post({ base: 3, direction: 'undo' }), MoveBody);
    expect(body).toBeInstanceOf(MoveBody);
    expect({ ...body }).toEqual({ base: 3, direction: 'undo' });
  });

  test.each([
    [MoveBody, { base: 3, direction: 'sideways' }, 'direction', /must be one of/],
    [MoveBody, { direction: 'undo' }, 'base', /./],
    [MoveBody, { base: 1.5, direction: 'undo' }, 'base', /integer/],
    [MoveBody, { base: 1, direction: 'undo', more: 1 }, 'more', /should not exist/],
    [SaveRevisionBody, { base: 1, document: 'text', note: 'x' }, 'document', /object/],
    [SaveRevisionBody, { base: 1, document: {}, note: '' }, 'note', /longer/],
    [CreateLayoutBody, { document: {}, note: 'x' }, 'document', /non-empty/],
    [StartBuildBody, { layoutId: '../etc', revision: 1 }, 'layoutId', /match/],
    [StartBuildBody, { layoutId: 'a', revision: 0 }, 'revision', /less than 1/],
    [StartBuildBody, { layoutId: 'a', revision: 1, copy: null }, 'copy', /./],
  ])('%p refuses %j', async (type, body, field, message) => {
    await expect(readBody<object>(post(body), type)).rejects.toMatchObject({
      status: 400,
      code: 'body-invalid',
      field,
      message: expect.stringMatching(message) as string,
    });
  });

  test.each([
    ['{', 'body-not-json'],
    ['', 'body-not-json'],
    ['[1]', 'body-not-an-object'],
    ['null', 'body-not-an-object'],
  ])('%j is %s', async (text, code) => {
    await expect(readBody(post(text), MoveBody)).rejects.toMatchObject({ status: 400, code });
  });

  test('a body may nest as deep as it likes, or name its prototype: it is judged, not followed', async () => {
    const deep = `{"document":${'['.repeat(200_000)}${']'.repeat(200_000)},"note":"x"}`;
    await expect(readBody(post(deep), CreateLayoutBody)).rejects.toMatchObject({
      code: 'body-invalid',
      field: 'document',
    });
    const odd = '{"__proto__":{"base":1},"direction":"undo"}';
    await expect(readBody(post(odd), MoveBody)).rejects.toMatchObject({ status: 400 });
    const inside = `{"document":{"slots":${'['.repeat(200_000)}${']'.repeat(200_000)}},"note":"x"}`;
    const { document } = await readBody(post(inside), CreateLayoutBody);
    expect(validateLayout(document)).toMatchObject({ ok: false });
  });

  test('a body that is too long is refused while it arrives', async () => {
    await expect(readBody(post(' '.repeat(BODY_LIMIT + 1)), MoveBody)).rejects.toMatchObject({ status: 413 });
  });
});

describe('changes of a tree of files', () => {
  const SHA = 'a'.repeat(64);
  const read = (body: unknown) => readBodyBy(post(body), 'do', TREE_CHANGES);

  test.each([
    { do: 'remove', path: 'a' },
    { do: 'rename', path: 'a', to: 'b', into: SHA },
    { do: 'mend', paths: ['a', 'b/c'], names: ['x', 'y'] },
    { do: 'mend', paths: ['a'], into: SHA },
    { do: 'move', path: 'a', before: 'b' },
    { do: 'move', path: 'a' },
    { do: 'folder', path: 'a/b' },
    { do: 'attributes', path: 'a', attributes: ['hidden'] },
    { do: 'attributes', path: 'a', attributes: [] },
  ])('%j', async (body) => {
    expect({ ...(await read(body)) }).toEqual(body);
  });

  test.each([
    ['of no kind', { path: 'a' }, 'do'],
    ['of an unknown kind', { do: 'burn', path: 'a' }, 'do'],
    ['of a kind that every object has', { do: 'constructor', path: 'a' }, 'do'],
    ['a rename to nothing', { do: 'rename', path: 'a' }, 'to'],
    ['a path that is no text among several', { do: 'mend', paths: ['a', 1] }, 'paths'],
    ['a name that is empty among several', { do: 'mend', paths: ['a'], names: [''] }, 'names'],
    ['a removal with a field of another kind', { do: 'remove', path: 'a', to: 'b' }, 'to'],
    ['attributes that are not said', { do: 'attributes', path: 'a' }, 'attributes'],
    ['attributes that are none', { do: 'attributes', path: 'a', attributes: ['shiny'] }, 'attributes'],
    ['attributes that are no list', { do: 'attributes', path: 'a', attributes: 'hidden' }, 'attributes'],
    ['a tree called null, which is not “missing”', { do: 'remove', path: 'a', into: null }, 'into'],
    ['a place called null', { do: 'move', path: 'a', before: null }, 'before'],
    ['a field that every object has', JSON.parse('{"do":"folder","path":"a","constructor":1}'), 'constructor'],
    ['a prototype', JSON.parse('{"do":"folder","path":"a","__proto__":{"x":1}}'), '__proto__'],
  ])('%s is refused', async (_, body, field) => {
    await expect(read(body)).rejects.toMatchObject({ status: 400, code: 'body-invalid', field });
  });
});

describe('paths, uploads and pages', () => {
  const refusal = (status: number, code: string, field: string) =>
    expect.objectContaining({ status, code, field }) as Error;

  test('a path names something that there could be', async () => {
    const path = { id: 'tide-gauge', number: '12' };
    expect({ ...(await readPath(Promise.resolve(path), RevisionPath)) }).toEqual({ id: 'tide-gauge', number: 12 });
    for (const id of ['', 'A', '../etc', 'a'.repeat(65), 'a\0'])
      expect(() => checkedParts({ id }, LayoutPath)).toThrow(refusal(404, 'layout-unknown', 'id'));
    for (const number of ['0', '-1', '1.5', 'x', '', '99999999999'])
      expect(() => checkedParts({ id: 'a', number }, RevisionPath)).toThrow(refusal(400, 'revision-unknown', 'number'));
    expect(() => checkedParts({ sha256: 'zz' }, TreePath)).toThrow(refusal(404, 'tree-unknown', 'sha256'));
  });

  const query = (text: string) => new URLSearchParams(text);

  test('an upload says where it goes, and how long it is', () => {
    expect({ ...checkedQuery(query('name=a.csv&time=2026-03-01T12:00:00'), FileUpload) }).toEqual({
      name: 'a.csv',
      time: '2026-03-01T12:00:00',
      under: '',
    });
    expect(checkedHeaders({ 'content-length': '12', host: 'x' }, ContentHeaders)).toMatchObject({
      'content-length': 12,
    });
  });

  test.each<[string, () => unknown, number, string, string]>([
    ['a name with a slash', () => checkedQuery(query('name=a/b'), FileUpload), 400, 'file-name-refused', 'name'],
    ['no name', () => checkedQuery(query(''), FileUpload), 400, 'file-name-refused', 'name'],
    [
      'a day that is none',
      () => checkedQuery(query('name=a&time=2026-02-30T12:00:00'), FileUpload),
      400,
      'query-invalid',
      'time',
    ],
    ['a tree that is none', () => checkedQuery(query('name=a&into='), FileUpload), 400, 'query-invalid', 'into'],
    ['half a wish', () => checkedQuery(query('leaveOut=no'), ArchiveUpload), 400, 'query-invalid', 'leaveOut'],
    ['no length', () => checkedHeaders({}, ContentHeaders), 411, 'length-missing', 'content-length'],
    [
      'a length of words',
      () => checkedHeaders({ 'content-length': '1e3' }, ContentHeaders),
      411,
      'length-missing',
      'content-length',
    ],
    [
      'too great a length',
      () => checkedHeaders({ 'content-length': '99999999999999' }, ContentHeaders),
      413,
      'upload-too-large',
      'content-length',
    ],
  ])('%s is refused', (_, read, status, code, field) => {
    expect(read).toThrow(refusal(status, code, field));
  });

  test('a page does not mind what it does not know, and says what is wrong with the rest', async () => {
    const asked = await pageQuery(Promise.resolve({ of: 'file:a.img', sectorSize: '4096', utm: 'x' }), SurveyPageQuery);
    expect(asked).toMatchObject({ of: 'file:a.img', sectorSize: 4096 });
    expect(await pageQuery(Promise.resolve({}), SurveyPageQuery)).toMatch(/“of”/);
    expect(await pageQuery(Promise.resolve({ of: ['file:a.img', 'file:b.img'] }), SurveyPageQuery)).toMatch(/“of”/);
    expect(await pageQuery(Promise.resolve({ a: '3' }), ComparePageQuery)).toEqual({ a: 3 });
  });
});

describe('answers', () => {
  test('results are JSON, refusals have status, code, sentence and field', async () => {
    const good = await respond(() => Promise.resolve({ a: 1 }), 201);
    expect([good.status, await good.json()]).toEqual([201, { a: 1 }]);
    const bad = await respond(() => Promise.reject(new Refusal(404, 'gone', 'It is gone.', 'id')));
    expect([bad.status, await bad.json()]).toEqual([
      404,
      { error: { code: 'gone', sentence: 'It is gone.', field: 'id' } },
    ]);
  });

  test('a defect tells nothing of the inside', () => {
    const log = jest.spyOn(console, 'error').mockImplementation(() => undefined);
    const { status, answer } = errorAnswer(new Error('secret path /root'));
    expect(status).toBe(500);
    expect(JSON.stringify(answer)).not.toContain('secret');
    expect(log).toHaveBeenCalled();
    log.mockRestore();
  });
});

describe('the guard', () => {
  const own = { host: '127.0.0.1:4310' };
  const ask = (headers: Record<string, string>, method = 'GET', url = '/api/layouts/x') =>
    refuseStranger({ headers, method, url }, 4310)?.code;

  test.each([
    [own],
    [{ host: 'localhost:4310' }],
    [{ host: '[::1]:4310' }],
    [{ host: 'LOCALHOST:4310' }],
    [{ ...own, origin: 'http://127.0.0.1:4310' }],
    [{ ...own, origin: 'http://localhost:4310', 'sec-fetch-site': 'same-origin' }],
    [{ ...own, 'sec-fetch-site': 'none' }],
  ])('%j passes', (headers) => {
    expect(ask(headers, 'POST')).toBeUndefined();
  });

  test.each([
    [{}, 'host-refused'],
    [{ host: 'tide.example:4310' }, 'host-refused'],
    [{ host: '127.0.0.1:9999' }, 'host-refused'],
    [{ host: '127.0.0.1' }, 'host-refused'],
    [{ host: '127.0.0.1:4310.tide.example' }, 'host-refused'],
    [{ ...own, origin: 'http://tide.example' }, 'origin-refused'],
    [{ ...own, origin: 'https://127.0.0.1:4310' }, 'origin-refused'],
    [{ ...own, origin: 'http://127.0.0.1:8080' }, 'origin-refused'],
    [{ ...own, origin: 'null' }, 'origin-refused'],
    [{ ...own, 'sec-fetch-site': 'cross-site' }, 'origin-refused'],
    [{ ...own, 'sec-fetch-site': 'same-site' }, 'origin-refused'],
  ])('%j is refused: %s', (headers, code) => {
    expect(ask(headers)).toBe(code);
  });

  test('a link on another page may lead to a screen, but not to the API', () => {
    const visit = {
      ...own,
      'sec-fetch-site': 'cross-site',
      'sec-fetch-mode': 'navigate',
      'sec-fetch-dest': 'document',
    };
    expect(ask(visit, 'GET', '/layouts/x')).toBeUndefined();
    for (const dest of ['iframe', 'frame', 'object', 'embed', 'image', undefined])
      expect(ask({ ...visit, 'sec-fetch-dest': dest! }, 'GET', '/layouts/x')).toBe('origin-refused');
    expect(ask(visit, 'POST', '/layouts/x')).toBe('origin-refused');
    expect(ask(visit, 'GET', '/api/images/x')).toBe('origin-refused');
  });
});

describe('what the system refuses is told as that, however deep it lies', () => {
  beforeEach(() => jest.spyOn(console, 'error').mockImplementation(() => undefined));
  afterEach(() => jest.restoreAllMocks());
  const coded = (code: string, cause?: Error) => Object.assign(new Error('x', { cause }), { code });

  test.each<[string, Error, number, string]>([
    ['a full disk', coded('ENOSPC'), 507, 'disk-full'],
    ['a quota that is used up', coded('EDQUOT'), 507, 'disk-full'],
    ['a database without room', new Error('query', { cause: coded('SQLITE_FULL') }), 507, 'disk-full'],
    ['a faulty disk below a database', new Error('query', { cause: coded('SQLITE_IOERR_FSYNC') }), 500, 'disk-fault'],
    ['a faulty disk', coded('EIO'), 500, 'disk-fault'],
    ['too many open files', coded('EMFILE'), 503, 'too-many-open-files'],
    ['a folder that is read only', coded('EROFS'), 500, 'read-only'],
    ['a database that another program holds', coded('SQLITE_BUSY'), 503, 'database-busy'],
    [
      'a database that cannot be opened on a faulty disk',
      new Error('ConnectionFailed("Unable to open connection to local database file:///a?vfs=unix: 10")'),
      500,
      'disk-fault',
    ],
    ['one on a full disk', new Error('ConnectionFailed("Unable: 13")'), 507, 'disk-full'],
    ['a damaged database', new Error('query', { cause: coded('SQLITE_CORRUPT') }), 500, 'database-damaged'],
  ])('%s', (_, error, status, code) => {
    const told = errorAnswer(error);
    expect([told.status, told.answer.error.code]).toEqual([status, code]);
    expect(told.answer.error.sentence).toMatch(/\. .*\.$/);
  });

  test('errors that cause each other in a circle end', () => {
    const error = new Error('a');
    error.cause = error;
    expect(errorAnswer(error).answer.error.code).toBe('internal');
  });
});
