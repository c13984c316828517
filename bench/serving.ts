/** Memory of the server while it builds and sends a 32 GB image, and the script of the designer's first load. */
import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { get } from 'node:http';
import path from 'node:path';
import { chromium } from '@playwright/test';
import type { BuildView } from '@/contract/builds';
import type { LayoutView } from '@/contract/layouts';
import { benchDragging } from './dragging';
import type { Row } from './row';

const PORT = 4321;
const BASE = `http://127.0.0.1:${PORT}`;

function descendants(pid: number): number[] {
  const children = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .filter((name) => {
      try {
        return (
          readFileSync(`/proc/${name}/stat`, 'utf8')
            .replace(/^.*\) /, '')
            .split(' ')[1] === String(pid)
        );
      } catch {
        return false;
      }
    })
    .map(Number);
  return [pid, ...children.flatMap(descendants)];
}

/** Sum of the peak resident memory of a process and its children, in MB. */
function peakMemory(pid: number): number {
  const kilobytes = descendants(pid).map((one) =>
    Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${one}/status`, 'utf8'))![1]),
  );
  return (kilobytes.reduce((sum, n) => sum + n, 0) * 1024) / 1e6;
}

async function post<T>(url: string, body: unknown): Promise<T> {
  const response = await fetch(BASE + url, { method: 'POST', body: JSON.stringify(body) });
  if (!response.ok) throw new Error(await response.text());
  return (await response.json()) as T;
}

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
  const document = { ...demo, medium: { ...demo.medium, kind: 'image', capacity: { exact: '32 GB' } } };
  const layout = await post<LayoutView>('/api/layouts', { document, note: 'bench' });
  const { id } = await post<BuildView>('/api/builds', { layoutId: layout.id, revision: 1 });
  for (;;) {
    const build = (await (await fetch(`${BASE}/api/builds/${id}`)).json()) as BuildView;
    if (build.state === 'done') return id;
    if (build.state === 'failed') throw new Error(build.failure!.sentence);
    await new Promise((resume) => setTimeout(resume, 100));
  }
}

async function firstLoad(): Promise<number> {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
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

async function started(data: string): Promise<ChildProcess> {
  const env = { ...process.env, PORT: String(PORT), LOESS_DATA: data };
  const server = spawn(process.execPath, ['scripts/start.mjs'], { env, stdio: ['ignore', 'pipe', 'inherit'] });
  await new Promise<void>((resolve) => {
    server.stdout.on('data', (chunk: Buffer) => {
      if (String(chunk).includes('Loess is at')) resolve();
    });
  });
  return server;
}

export async function benchServing(folder: string): Promise<Row[]> {
  const data = mkdtempSync(path.join(folder, 'bench-data-'));
  const server = await started(data);
  try {
    const id = await imageOf32GB();
    const before = performance.now();
    const raw = await download(`/api/images/${id}?as=raw`);
    const rawSeconds = (performance.now() - before) / 1000;
    const between = performance.now();
    const gzip = await download(`/api/images/${id}?as=gzip`);
    const gzipSeconds = (performance.now() - between) / 1000;
    const memory = peakMemory(server.pid!);
    const script = await firstLoad();
    const dragging = await benchDragging(BASE);
    return [
      {
        name: 'server: peak memory, building and sending 32 GB',
        measured: memory,
        limit: 300,
        unit: 'MB',
        detail: `raw ${(raw / 1e9 / rawSeconds).toFixed(2)} GB/s; gzip ${(raw / 1e9 / gzipSeconds).toFixed(2)} GB/s of image, ${(gzip / 1e6).toFixed(1)} MB`,
      },
      {
        name: 'designer: script of the first load, compressed',
        measured: script / 1000,
        limit: 230,
        unit: 'kB',
        detail: 'as sent to Chromium',
      },
      ...dragging,
    ];
  } finally {
    server.kill('SIGKILL');
    rmSync(data, { recursive: true, force: true });
  }
}
