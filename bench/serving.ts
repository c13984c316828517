/** Memory of the server while it builds and sends a 32 GB image, and the script of the designer's first load. */
import { mkdtempSync, readFileSync } from 'node:fs';
import { get } from 'node:http';
import path from 'node:path';
import type { LayoutView } from '@/contract/layouts';
import { launched } from './browser';
import type { Row } from './row';
import { BASE, buildOnServer, peakMemory, serving } from './server';

function download(url: string): Promise<number> {
  return new Promise((resolve, reject) => {
    get(BASE + url, (response) => {
      let bytes = 0;
      response.on('data', (chunk: Buffer) => (bytes += chunk.length));
      response.on('end', () => resolve(bytes));
      response.on('error', reject);
    }).on('error', reject);
  });
}

async function imageOf32GB(): Promise<string> {
  const demo = JSON.parse(readFileSync('demo/service-stick.json', 'utf8')) as LayoutView['document'];
  const document: LayoutView['document'] = {
    ...demo,
    medium: { ...demo.medium, kind: 'image', capacity: { exact: '32 GB' } },
  };
  return (await buildOnServer(document)).id;
}

async function firstLoad(): Promise<number> {
  const browser = await launched();
  const page = await browser.newPage();
  const sizes: Promise<number>[] = [];
  page.on('requestfinished', (request) => {
    if (request.resourceType() === 'script') sizes.push(request.sizes().then((one) => one.responseBodySize));
  });
  await page.goto(`${BASE}/layouts/gauge-logger`, { waitUntil: 'networkidle' });
  const total = (await Promise.all(sizes)).reduce((sum, size) => sum + size, 0);
  await browser.close();
  return total;
}

export async function benchServing(folder: string): Promise<Row[]> {
  return serving(mkdtempSync(path.join(folder, 'bench-data-')), async (server) => {
    const id = await imageOf32GB();
    const before = performance.now();
    const raw = await download(`/api/images/${id}?as=raw`);
    const rawSeconds = (performance.now() - before) / 1000;
    const between = performance.now();
    const gzip = await download(`/api/images/${id}?as=gzip`);
    const gzipSeconds = (performance.now() - between) / 1000;
    const memory = peakMemory(server.pid!);
    const script = await firstLoad();
    return [
      {
        name: 'server: peak memory, building and sending 32 GB',
        runs: [memory],
        limit: 300,
        unit: 'MB',
        detail: `raw ${(raw / 1e9 / rawSeconds).toFixed(2)} GB/s; gzip ${(raw / 1e9 / gzipSeconds).toFixed(2)} GB/s of image, ${(gzip / 1e6).toFixed(1)} MB`,
      },
      {
        name: 'designer: script of the first load, compressed',
        runs: [script / 1000],
        limit: 230,
        unit: 'kB',
        detail: 'as sent to Chromium',
      },
    ];
  });
}
