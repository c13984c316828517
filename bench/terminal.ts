/** How long the terminal program takes, as a process of its own: to its first output, for many slots, for a series. */
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Layout } from '@/core/layout/document';
import { writeLayout } from '@/core/layout/validate';
import { median, type Row } from './row';

const RUNS = 9;
const SLOTS = 128;
const COPIES = 1000;

interface Times {
  readonly first: number;
  readonly all: number;
}

/** Runs Node; milliseconds to the first output and to the end. */
function timed(args: readonly string[]): Promise<Times> {
  return new Promise((resolve, reject) => {
    const started = performance.now();
    let first = 0;
    const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'inherit'] });
    child.stdout.once('data', () => (first = performance.now() - started));
    child.stdout.resume();
    child.once('error', reject);
    child.once('close', () => resolve({ first, all: performance.now() - started }));
  });
}

async function medians(args: readonly string[]): Promise<Times> {
  const times: Times[] = [];
  for (let i = 0; i < RUNS; i++) times.push(await timed(args));
  return { first: median(times.map((one) => one.first)), all: median(times.map((one) => one.all)) };
}

const GAUGE = JSON.parse(readFileSync('demo/gauge-logger.json', 'utf8')) as Layout;

/** A layout of many slots on a GPT. */
function manySlots(): Layout {
  const slots = Array.from({ length: SLOTS }, (_, i) => ({
    id: `log-${i}`,
    kind: 'partition' as const,
    name: `Tide log ${i}`,
    role: 'data' as const,
    size: '40 MiB',
  }));
  const medium = { ...GAUGE.medium, capacity: { exact: '8 GiB' } };
  const table = { kind: 'gpt' as const, diskId: '6d617272-616d-4c0a-8d05-7469646573aa', entries: 256 };
  const { accepted: _, machine: __, ...rest } = GAUGE;
  return { ...rest, boots: [], medium, table, slots };
}

/** The gauge logger without its files. */
function withoutFiles(): Layout {
  const slots = GAUGE.slots.map((slot) => {
    if (slot.kind !== 'partition' || slot.content?.kind !== 'fat') return slot;
    const { files: _, ...content } = slot.content;
    return { ...slot, content };
  });
  return { ...GAUGE, slots };
}

export async function benchTerminal(folder: string): Promise<Row[]> {
  const place = mkdtempSync(path.join(folder, 'bench-terminal-'));
  try {
    const [many, gauge] = [path.join(place, 'many.json'), path.join(place, 'gauge.json')];
    writeFileSync(many, writeLayout(manySlots()));
    writeFileSync(gauge, writeLayout(withoutFiles()));
    const loess = (...args: string[]) => ['bin/loess.mjs', ...args];
    // The first run may bundle the program.
    await timed(loess('--version'));
    const node = await medians(['-e', 'console.log(1)']);
    const check = await medians(loess('check', 'demo/gauge-logger.json'));
    const large = await medians(loess('check', many));
    const series = await timed(
      loess('series', gauge, '--copies', String(COPIES), '--into', path.join(place, 'copies')),
    );
    const besides = `Node alone takes ${node.first.toFixed(0)} ms here`;
    return [
      {
        name: 'terminal: start to first output, median',
        measured: check.first,
        limit: 150,
        unit: 'ms',
        detail: besides,
      },
      {
        name: `terminal: check of ${SLOTS} slots, in all`,
        measured: large.all,
        limit: 250,
        unit: 'ms',
        detail: besides,
      },
      {
        name: `terminal: ${COPIES} copies of the gauge logger`,
        measured: series.all / 1000,
        limit: 60,
        unit: 's',
        detail: 'without files, on all cores',
      },
    ];
  } finally {
    rmSync(place, { recursive: true, force: true });
  }
}
