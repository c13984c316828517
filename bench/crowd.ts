/**
 * Many at once: a shelf of 1,000 layouts, a layout of 1,000 revisions, and how soon others are answered while images are
 * built, summed, sent as gzip, surveyed and taken up; with the memory of all that.
 */
import { mkdtempSync } from 'node:fs';
import { get, request } from 'node:http';
import path from 'node:path';
import type { BuildView } from '@/contract/builds';
import type { LayoutView } from '@/contract/layouts';
import type { Layout } from '@/core/layout/document';
import { GIB, MIB } from '@/core/quantity/units';
import { median, type Row } from './row';
import { BASE, buildOnServer, peakMemory, post, serving } from './server';

const LAYOUTS = 1000;
const REVISIONS = 1000;
const READS = 200;
const BUILDS = 50;

const layout = (name: string, exact: string): Layout => ({
  format: 'loess-layout',
  version: 2,
  name,
  date: '2026-03-01T12:00:00',
  medium: { kind: 'image', capacity: { exact }, logicalSector: 512, physicalSector: 512 },
  boots: [],
  table: { kind: 'mbr', signature: '6d617272' },
  slots: [
    {
      id: 'a',
      kind: 'partition',
      name: 'Tide log',
      role: 'data',
      size: 'rest, at most 1 GiB',
      content: { kind: 'fat', label: 'TIDELOG', volumeId: '7A1D-0001' },
    },
  ],
});

/** Milliseconds until the whole answer to a request came, some times. */
async function answerTimes(url: string, times = 5): Promise<number[]> {
  const took: number[] = [];
  for (let i = 0; i < times; i++) {
    const begun = performance.now();
    const answer = await fetch(BASE + url);
    await answer.arrayBuffer();
    if (!answer.ok) throw new Error(`${url}: ${answer.status}`);
    took.push(performance.now() - begun);
  }
  return took;
}

/** How long the server could not turn to a request, at most, in the last five seconds. */
async function longestWait(): Promise<number> {
  return ((await (await fetch(`${BASE}/api/health`)).json()) as { longestWait: number }).longestWait;
}

/** Milliseconds after which nothing that was before is in what the server says of its waits. */
const QUIET = 6500;

/**
 * Asks for something small again and again while work goes on: all times, and the longest wait of the server, in milliseconds.
 * Without something to ask for, that wait is what the work alone causes: answers take their time too.
 */
async function meanwhile(work: () => Promise<unknown>, url?: string): Promise<{ times: number[]; wait: number }> {
  await new Promise((resume) => setTimeout(resume, QUIET));
  const times: number[] = [];
  let isOver = false;
  let wait = 0;
  const done = work().finally(() => (isOver = true));
  const watching = setInterval(() => void longestWait().then((most) => (wait = Math.max(wait, most))), 2000);
  while (url !== undefined && !isOver) {
    const begun = performance.now();
    await (await fetch(BASE + url)).arrayBuffer();
    times.push(performance.now() - begun);
    await new Promise((resume) => setTimeout(resume, 5));
  }
  await done;
  clearInterval(watching);
  // Its last second is told once that is over.
  await new Promise((resume) => setTimeout(resume, 1200));
  return { times, wait: Math.max(wait, await longestWait()) };
}

/** Fetches something and throws it away as it comes. */
function drained(url: string): Promise<void> {
  return new Promise((resolve, reject) => {
    get(BASE + url, (answer) => {
      answer.resume();
      answer.on('end', () => resolve());
      answer.on('error', reject);
    }).on('error', reject);
  });
}

/** Sends so many bytes of no pattern as an image file. */
function upload(name: string, bytes: number): Promise<void> {
  const window = Buffer.alloc(MIB);
  for (let i = 0; i < window.length; i++) window[i] = (i * 31 + (i >> 8)) & 0xff;
  return new Promise((resolve, reject) => {
    const sent = request(
      `${BASE}/api/files/${name}`,
      { method: 'PUT', headers: { 'content-length': bytes } },
      (answer) => {
        answer.resume();
        answer.on('end', () =>
          answer.statusCode === 201 ? resolve() : reject(new Error(`upload: ${answer.statusCode}`)),
        );
      },
    );
    sent.on('error', reject);
    let left = bytes;
    const more = () => {
      while (left > 0) {
        left -= MIB;
        if (!sent.write(window)) return void sent.once('drain', more);
      }
      sent.end();
    };
    more();
  });
}

async function built(id: string): Promise<BuildView> {
  for (;;) {
    const build = (await (await fetch(`${BASE}/api/builds/${id}`)).json()) as BuildView;
    if (build.state === 'done') return build;
    if (build.state === 'failed') throw new Error(build.failure!.sentence);
    await new Promise((resume) => setTimeout(resume, 20));
  }
}

/** Work beside which others are to be answered soon. */
async function busyWork(): Promise<readonly (readonly [name: string, work: () => Promise<unknown>])[]> {
  const large: Layout = {
    ...layout('Large', '32 GB'),
    slots: [{ id: 'a', kind: 'partition', name: 'Chart', role: 'data', size: 'rest', content: { kind: 'zeros' } }],
  };
  const { id } = await buildOnServer(large);
  return [
    ['an upload of 1 GiB', () => upload('bench.img', GIB)],
    ['a build', () => buildOnServer({ ...large, name: 'Another' })],
    [
      'a sum of 32 GB',
      async () => {
        await post(`/api/builds/${id}/digest`, {});
        for (;;) {
          const { digest } = (await (await fetch(`${BASE}/api/builds/${id}`)).json()) as BuildView;
          if (digest.state === 'done') return;
          await new Promise((resume) => setTimeout(resume, 100));
        }
      },
    ],
    ['gzip of 32 GB', () => drained(`/api/images/${id}?as=gzip`)],
    ['a survey', () => drained(`/api/surveys?of=build:${id}`)],
  ];
}

export async function benchCrowd(folder: string): Promise<Row[]> {
  return serving(mkdtempSync(path.join(folder, 'bench-data-')), async (server) => {
    const busy: { name: string; times: number[]; middle: number; most: number; wait: number }[] = [];
    const blocked: { name: string; wait: number }[] = [];
    // What the machine alone makes a process wait stands beside what work adds to it.
    let idle = 0;
    const nothing = ['nothing', () => new Promise((resume) => setTimeout(resume, 20_000))] as const;
    for (const [name, work] of [nothing, ...(await busyWork())]) {
      const { times, wait } = await meanwhile(work, '/api/layouts/gauge-logger');
      busy.push({ name, times, middle: median(times), most: Math.max(...times), wait });
      if (/gzip|sum/.test(name)) blocked.push({ name, wait: (await meanwhile(work)).wait });
      if (name === 'nothing') idle = (await meanwhile(work)).wait;
    }
    const slowest = busy.reduce((a, b) => (b.middle > a.middle ? b : a));

    const sparse: LayoutView[] = [];
    for (let i = 0; i < BUILDS; i++)
      sparse.push(await post<LayoutView>('/api/layouts', { document: layout(`Sparse ${i}`, '64 GiB'), note: 'bench' }));
    const ordered = Promise.all(
      sparse.map(async ({ id }) => built((await post<BuildView>('/api/builds', { layoutId: id, revision: 1 })).id)),
    );
    await Promise.all([ordered, ...Array.from({ length: READS }, () => answerTimes('/api/layouts/gauge-logger', 1))]);
    const memory = peakMemory(server.pid!);

    for (let i = 0; i < LAYOUTS; i++)
      await post('/api/layouts', { document: layout(`Buoy ${i}`, '1 GiB'), note: 'bench' });
    const shelf = await answerTimes('/');
    const { id } = sparse[0]!;
    for (let base = 1; base < REVISIONS; base++)
      await post(`/api/layouts/${id}/revisions`, {
        base,
        document: layout(`Sparse ${base}`, '64 GiB'),
        note: `change ${base}`,
      });
    const designer = await answerTimes(`/layouts/${id}`);
    return [
      {
        name: 'shelf: 1,000 layouts, the page from the server',
        runs: shelf,
        limit: 300,
        unit: 'ms',
        detail: 'the first of its pages',
      },
      {
        name: 'designer: a layout of 1,000 revisions, the page',
        runs: designer,
        limit: 300,
        unit: 'ms',
        detail: 'and its revisions',
      },
      {
        name: 'server: a small answer beside the heaviest work, middle',
        runs: slowest.times,
        limit: 100,
        unit: 'ms',
        detail: busy
          .map(({ name, middle, most }) => `${name} ${middle.toFixed(1)}, at most ${most.toFixed(0)}`)
          .join('; '),
      },
      {
        name: 'server: longest wait for the process beside gzip and sums',
        runs: blocked.map(({ wait }) => wait),
        of: 'the largest',
        limit: 20,
        unit: 'ms',
        detail:
          `${blocked.map(({ name, wait }) => `${name} ${wait.toFixed(1)}`).join('; ')}; a server that has nothing to do ${idle.toFixed(1)}; with an answer every few milliseconds ` +
          `beside ${busy.map(({ name, wait }) => `${name} ${wait.toFixed(1)}`).join('; ')}`,
      },
      {
        name: 'server: peak memory, 200 reads and 50 builds of 64 GiB at once',
        runs: [memory],
        limit: 300,
        unit: 'MB',
        detail: 'sparse',
      },
    ];
  });
}
