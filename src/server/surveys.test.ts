import { createHash } from 'node:crypto';
import {
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { request as send } from 'node:http';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, GPT_TABLE, layoutOn, noise, part } from '@tests/samples';
import { mbr } from '@tests/found-base';
import { type Served, served } from '@tests/served';
import { until } from '@tests/until';
import { openRisks } from '@/core/findings/layout/acceptance';
import { check } from '@/core/findings/layout/check';
import { place } from '@/core/placement/place';
import { startBuild, getBuild } from './builds';
import { type Context, openContext } from './context';
import { listImageFiles, removeImageFile } from './image-folder';
import { createLayout } from './layouts';
import { forRequest } from './log';
import { openSector, surveyImage } from './surveys';

let root: string;
let context: Context;
let server: Served;
let base: string;

/** What lies in the folder of images, but for that of what is being sent. */
const shown = () => readdirSync(context.folder.images).filter((name) => !name.startsWith('.'));

beforeAll(async () => {
  root = mkdtempSync(path.join(tmpdir(), 'loess-surveys-'));
  context = await openContext({ data: root });
  server = await served(context);
  base = `${server.base}/api/files`;
});

afterAll(async () => {
  server.close();
  await context.close();
  rmSync(root, { recursive: true, force: true });
});

const inFolder = (name: string) => path.join(context.folder.images, name);
const put = (name: string, bytes: Uint8Array) =>
  fetch(`${base}/${encodeURIComponent(name)}`, { method: 'PUT', body: Buffer.from(bytes) });
const codeOf = async (response: Response) => ((await response.json()) as { error: { code: string } }).error.code;

async function built(): Promise<string> {
  const layout = layoutOn('100 MiB', [fatPart('e', '40 MiB', { label: 'TIDELOG' }), part('d', 'rest')], {
    table: GPT_TABLE,
  });
  const { id } = await createLayout(context, layout, 'New');
  const build = await startBuild(context, { layoutId: id, revision: 1 });
  await context.buildQueue.idle();
  return build.id;
}

describe('sending image files', () => {
  test('a file arrives whole, and its zeros take no room', async () => {
    const bytes = new Uint8Array(5_000_001);
    bytes.set(noise(70_000), 4_000_000);
    const response = await put('tide gauge.img', bytes);
    expect(response.status).toBe(201);
    expect(readFileSync(inFolder('tide gauge.img')).equals(bytes)).toBe(true);
    expect(statSync(inFolder('tide gauge.img')).blocks * 512).toBeLessThan(300_000);
    expect(await listImageFiles(context)).toMatchObject([{ name: 'tide gauge.img', size: 5_000_001 }]);
    expect(await codeOf(await put('tide gauge.img', bytes))).toBe('file-exists');
    expect((await fetch(`${base}/tide%20gauge.img`, { method: 'DELETE' })).status).toBe(200);
    expect(await listImageFiles(context)).toEqual([]);
  });

  test('an empty file is a file', async () => {
    expect((await put('empty', new Uint8Array(0))).status).toBe(201);
    expect(await surveyImage(context, { of: 'file:empty' })).toMatchObject({
      findings: [{ rule: 'found-table/shorter-than-a-sector' }],
    });
    await removeImageFile(context, 'empty');
  });

  test('an upload that breaks off, or has no length, leaves nothing', async () => {
    await new Promise<void>((resolve) => {
      const broken = send(`${base}/broken.img`, { method: 'PUT', headers: { 'content-length': '1000000' } });
      broken.on('error', () => resolve());
      broken.write(Buffer.alloc(200_000, 7));
      void until(() => readdirSync(context.folder.images).length > 0).then(() => broken.destroy());
    });
    await until(() => shown().length === 0);
    expect(shown()).toEqual([]);
    const endless = await new Promise<number>((resolve) => {
      const request = send(`${base}/endless.img`, { method: 'PUT' }, (response) => resolve(response.statusCode!));
      request.write('x', () => request.end());
    });
    expect(endless).toBe(411);
    expect(shown()).toEqual([]);
  });

  test('names that lead elsewhere, and sizes that no disk holds, are refused', async () => {
    for (const name of ['../x', '.hidden', 'a\u0007b', 'x'.repeat(250), 'é'.repeat(125)])
      expect(await codeOf(await put(name, new Uint8Array(1)))).toBe('file-name-refused');
    const status = await new Promise<number>((resolve) => {
      const headers = { 'content-length': String(2 ** 50) };
      const request = send(`${base}/huge.img`, { method: 'PUT', headers }, (response) => {
        resolve(response.statusCode!);
        request.destroy();
      });
      request.on('error', () => undefined);
      request.write('x');
    });
    expect(status).toBe(413);
    expect((await fetch(`${base}/none`, { method: 'DELETE' })).status).toBe(404);
    expect((await fetch(`${base}/none`, { method: 'POST' })).status).toBe(405);
    expect(shown()).toEqual([]);
  });

  test('links in the folder are not followed', async () => {
    symlinkSync('/etc/hostname', inFolder('link'));
    expect(await listImageFiles(context)).toEqual([]);
    rmSync(inFolder('link'));
  });
});

describe('surveys', () => {
  test('a build is surveyed and any sector of it opened', async () => {
    const id = await built();
    const view = await surveyImage(context, { of: `build:${id}` });
    expect(view).toMatchObject({ isGuess: true, findings: [], survey: { table: 'gpt', sectorSize: 512 } });
    const opened = await openSector(context, { of: `build:${id}`, sector: 1 });
    expect(opened.ledger.what).toBe('GPT header');
    expect(opened.stops.map((one) => one.what)).toContain('Partition 1, e: FSInfo');
    await expect(openSector(context, { of: `build:${id}`, sector: 204_800 })).rejects.toMatchObject({
      code: 'sector-beyond-the-end',
    });
  });

  test('a file is read and not changed; a change of it is seen', async () => {
    const file = inFolder('noise.img');
    writeFileSync(file, noise(3_000_000));
    const sha = () => createHash('sha256').update(readFileSync(file)).digest('hex');
    const before = sha();
    expect((await surveyImage(context, { of: 'file:noise.img' })).survey.table).toBe('none');
    expect(sha()).toBe(before);
    truncateSync(file, 100);
    expect((await surveyImage(context, { of: 'file:noise.img' })).survey.sectors).toBe(0);
  });

  test.each([
    ['file:none.img', 'file-unknown'],
    ['file:../loess.db', 'file-name-refused'],
    ['build:none', 'build-unknown'],
    ['loess.db', 'image-unknown'],
  ])('%s is refused', async (of, code) => {
    await expect(surveyImage(context, { of })).rejects.toMatchObject({ code });
  });

  test('a compressed image is named as such', async () => {
    writeFileSync(inFolder('card.img.gz'), Buffer.from([0x1f, 0x8b, 8, 0]));
    await expect(surveyImage(context, { of: 'file:card.img.gz' })).rejects.toMatchObject({ code: 'image-compressed' });
  });
});

test('a build is refused while a risk is open, and tells the reasons of those that are accepted', async () => {
  const layout = layoutOn('100 MiB', [part('a', 'rest', { active: true })], {
    boots: ['bios'],
    machine: { loader: 'gap' },
  });
  const { id } = await createLayout(context, layout, 'New');
  await expect(startBuild(context, { layoutId: id, revision: 1 })).rejects.toMatchObject({
    status: 409,
    code: 'layout-has-risks',
  });
  const [risk] = openRisks(check(place(layout)));
  const accepted = [{ rule: risk!.rule, sentence: risk!.sentence, reason: 'the loader comes later' }];
  const other = await createLayout(context, { ...layout, accepted }, 'New');
  const { id: build } = await startBuild(context, { layoutId: other.id, revision: 1 });
  await context.buildQueue.idle();
  expect((await getBuild(context, build)).report?.accepted).toEqual(accepted);
});

describe('who leaves', () => {
  const asked = { of: 'file:left.img', sectorSize: 512 } as const;
  const ask = (requestId: string, isGone: () => boolean) =>
    forRequest({ requestId, isGone }, () => surveyImage(context, asked));

  beforeAll(() => {
    const image = mbr();
    writeFileSync(path.join(context.folder.images, 'left.img'), image.bytes(0, image.size));
  });

  test('gets nothing, and what was begun for them is not remembered', async () => {
    await expect(ask('a', () => true)).rejects.toMatchObject({ code: 'client-left' });
    expect((await ask('b', () => false)).survey.partitions).toHaveLength(2);
  });

  test('takes nothing from whoever waits with them, in whatever order the two come to be asked for', async () => {
    const changed = path.join(context.folder.images, 'left.img');
    for (let i = 0; i < 20; i++) {
      // An image that has changed is surveyed anew.
      utimesSync(changed, i, i);
      let isGone = false;
      const leaving = ask('a', () => isGone);
      const staying = ask('b', () => false);
      isGone = true;
      const [left, stayed] = await Promise.allSettled([leaving, staying]);
      expect(stayed).toMatchObject({ status: 'fulfilled', value: { survey: { table: 'mbr' } } });
      if (left.status === 'rejected') expect(left.reason).toMatchObject({ code: 'client-left' });
    }
  });
});
