/** Dragging a boundary in a layout of 24 slots, in Chromium: how long tasks and frames take, against the idle page. */
import { mkdtempSync } from 'node:fs';
import path from 'node:path';
import type { Page } from '@playwright/test';
import type { LayoutView } from '@/contract/layouts';
import type { Layout, Slot } from '@/core/layout/document';
import { launched } from './browser';
import { median, type Row } from './row';
import { BASE, post, serving } from './server';

/** Times that the boundary is dragged. */
const RUNS = 3;
const FRAMES = 150;

function twentyFour(): Layout {
  const slots = Array.from({ length: 24 }, (_, i): Slot => {
    const content = {
      kind: 'fat',
      label: `TIDE ${i}`,
      volumeId: `7A1D-${(4096 + i).toString(16).toUpperCase()}`,
    } as const;
    return {
      id: `s${i}`,
      kind: 'partition',
      name: `Slot ${i}`,
      role: i % 3 === 0 ? 'system' : 'data',
      size: i === 23 ? 'rest' : `${i + 2} GiB`,
      ...(i % 2 === 0 && { content }),
    };
  });
  return {
    format: 'loess-layout',
    version: 2,
    name: 'Dragging',
    date: '2026-03-01T12:00:00',
    medium: { kind: 'disk', capacity: { nominal: '500 GB' }, logicalSector: 512, physicalSector: 4096 },
    boots: [],
    table: { kind: 'gpt', diskId: '6d617272-616d-4c0a-8d05-7469646573aa' },
    slots,
  };
}

/** Starts collecting frame times and long tasks in the page. */
async function watch(page: Page): Promise<void> {
  await page.evaluate(() => {
    const seen = { frames: [] as number[], tasks: [] as number[], last: performance.now(), on: true };
    (window as unknown as { seen: typeof seen }).seen = seen;
    new PerformanceObserver((list) => seen.tasks.push(...list.getEntries().map((one) => one.duration))).observe({
      type: 'longtask',
    });
    const step = (now: number) => {
      seen.frames.push(now - seen.last);
      seen.last = now;
      if (seen.on) requestAnimationFrame(step);
    };
    requestAnimationFrame(step);
  });
}

function seen(page: Page): Promise<{ frames: number[]; tasks: number[] }> {
  return page.evaluate(() => {
    const { seen: all } = window as unknown as { seen: { frames: number[]; tasks: number[]; on: boolean } };
    all.on = false;
    return { frames: all.frames.slice(2), tasks: all.tasks };
  });
}

/** Frames and long tasks of the page while nothing happens, and while a boundary is dragged. */
export function benchDragging(folder: string): Promise<Row[]> {
  return serving(mkdtempSync(path.join(folder, 'bench-data-')), dragging24);
}

async function dragging24(): Promise<Row[]> {
  const { id } = await post<LayoutView>('/api/layouts', { document: twentyFour(), note: 'bench' });
  const browser = await launched();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${BASE}/layouts/${id}`, { waitUntil: 'networkidle' });
  await page.waitForTimeout(1500);
  await watch(page);
  await page.waitForTimeout((FRAMES * 1000) / 60);
  const idle = await seen(page);
  const runs: { frames: number[]; tasks: number[] }[] = [];
  for (let run = 0; run < RUNS; run++) runs.push(await dragged(page));
  await browser.close();
  const dragging = { frames: runs.flatMap((one) => one.frames), tasks: runs.flatMap((one) => one.tasks) };
  return [
    {
      name: `dragging in 24 slots: longest task over 50 ms in ${RUNS} runs`,
      runs: runs.map(({ tasks }) => Math.max(0, ...tasks)),
      of: 'the largest',
      limit: 50,
      unit: 'ms',
      detail: `${dragging.tasks.length} tasks over 50 ms in ${dragging.frames.length} frames; idle ${idle.tasks.length}`,
    },
    {
      name: 'dragging in 24 slots: median frame / idle page',
      runs: runs.map(({ frames }) => median(frames) / median(idle.frames)),
      limit: 1.3,
      unit: '×',
      detail: `${median(dragging.frames).toFixed(1)} and ${median(idle.frames).toFixed(1)} ms`,
    },
  ];
}

/** Drags a boundary up and down. */
async function dragged(page: Page) {
  const box = (await page.getByRole('separator', { name: 'Boundary below Slot 4' }).boundingBox())!;
  await page.mouse.move(box.x + 40, box.y + 4);
  await page.mouse.down();
  await page.mouse.move(box.x + 40, box.y + 6);
  await page.waitForTimeout(300);
  await watch(page);
  for (let i = 0; i < FRAMES; i++) await page.mouse.move(box.x + 40, box.y + 4 + 18 * Math.sin(i / 6));
  const found = await seen(page);
  await page.mouse.up();
  return found;
}
