/** How long the terminal program takes, as a process: to its first output and for many slots, beside Node alone; for a series. */
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Layout } from '@/core/layout/document';
import { writeLayout } from '@/core/layout/validate';
import { OPTIONS } from './options';
import { median, ratios, type Row } from './row';

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

/** Times of calls that are made in turns, so that all meet the same machine; a list for each call. */
async function inTurns(...calls: readonly (readonly string[])[]): Promise<Times[][]> {
  const times: Times[][] = calls.map(() => []);
  for (let i = 0; i < RUNS; i++) for (const [which, args] of calls.entries()) times[which]!.push(await timed(args));
  return times;
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
    const [node, check, large] = (await inTurns(
      ['-e', 'console.log(1)'],
      loess('check', 'demo/gauge-logger.json'),
      loess('check', many),
    )) as [Times[], Times[], Times[]];
    const firsts = (times: readonly Times[]) => times.map(({ first }) => first);
    const detail = `${median(firsts(check)).toFixed(0)} ms; Node alone ${median(firsts(node)).toFixed(0)} ms`;
    return [
      {
        name: 'terminal: start to first output / that of Node alone',
        runs: ratios(firsts(check), firsts(node)),
        limit: 3.5,
        unit: '×',
        detail,
      },
      {
        name: `terminal: check of ${SLOTS} slots, in all / first output of Node alone`,
        runs: ratios(
          large.map(({ all }) => all),
          firsts(node),
        ),
        limit: 6,
        unit: '×',
        detail: `${median(large.map(({ all }) => all)).toFixed(0)} ms`,
      },
      ...(OPTIONS.quick ? [] : [await seriesRow(gauge, path.join(place, 'copies'))]),
    ];
  } finally {
    rmSync(place, { recursive: true, force: true });
  }
}

async function seriesRow(document: string, into: string): Promise<Row> {
  const { all } = await timed(['bin/loess.mjs', 'series', document, '--copies', String(COPIES), '--into', into]);
  return {
    name: `terminal: ${COPIES} copies of the gauge logger`,
    runs: [all / 1000],
    limit: 60,
    unit: 's',
    detail: 'without files, on all cores',
  };
}
