/** A layout from a survey of a hundred partitions; a new image from a plan, against `cp` of the old one. */
import { execFileSync } from 'node:child_process';
import { closeSync, mkdtempSync, openSync, rmSync, statSync, truncateSync, writeFileSync, writeSync } from 'node:fs';
import path from 'node:path';
import { layoutKeeping } from '@/core/change/keep';
import { planOf, type Put } from '@/core/change/plan';
import { check } from '@/core/findings/layout/check';
import { validateLayout } from '@/core/layout/validate';
import { place } from '@/core/placement/place';
import { composedSource } from '@/core/compose/source';
import { compose } from '@/core/compose/compose';
import { surveyMedium } from '@/core/survey/survey';
import { writeChanged } from '@/files/changed-image';
import { fileSource } from '@/files/file-source';
import { open } from 'node:fs/promises';
import { median, ratios, type Row } from './row';
import { hundredPartitions } from './surveying';

const RUNS = 5;
const MIB = 1024 * 1024;
const GIB = 1024 * MIB;
const SIZE = 64e9;

async function keeping(): Promise<Row> {
  const placement = place(hundredPartitions());
  const survey = await surveyMedium(composedSource(compose(placement), placement.medium.capacity), { sectorSize: 512 });
  const times: number[] = [];
  let slots = 0;
  for (let i = 0; i < RUNS; i++) {
    const started = performance.now();
    const kept = layoutKeeping(survey, { name: 'Kept', date: '2026-03-01T12:00:00' });
    const valid = kept.ok ? validateLayout(kept.value) : undefined;
    if (!valid?.ok) throw new Error('no layout was made');
    check(place(valid.value));
    slots = valid.value.slots.length;
    times.push(performance.now() - started);
  }
  return {
    name: 'a layout from a survey of 100 partitions, placed and checked',
    runs: times,
    limit: 20,
    unit: 'ms',
    detail: `${slots} slots, the middle of ${RUNS} runs`,
  };
}

/** A sparse file of 64 GB with 2 GiB of data, in pieces of 8 MiB. */
function sparseFile(file: string): void {
  writeFileSync(file, '');
  truncateSync(file, SIZE);
  const descriptor = openSync(file, 'r+');
  const piece = Buffer.alloc(8 * MIB, 0x5a);
  for (let i = 0; i < (2 * GIB) / piece.length; i++)
    writeSync(descriptor, piece, 0, piece.length, i * Math.floor(SIZE / 256 / MIB) * MIB);
  closeSync(descriptor);
}

async function changing(folder: string): Promise<Row[]> {
  const [old, copy, made] = ['old.img', 'copy.img', 'made.img'].map((name) => path.join(folder, name)) as [
    string,
    string,
    string,
  ];
  sparseFile(old);
  execFileSync('sync', ['-f', folder]);
  const handle = await open(old, 'r');
  const puts = Array.from({ length: 20 }, (_, i): Put => ({
    what: 'a range',
    extent: { offset: i * 3 * GIB + 4096, bytes: new Uint8Array(MIB).fill(i + 1) },
  }));
  const plan = await planOf(fileSource(handle, SIZE), puts);
  await handle.close();
  const [copying, writing, comparing]: number[][] = [[], [], []];
  let allocated = 0;
  for (let i = 0; i < 3; i++) {
    const started = performance.now();
    execFileSync('cp', ['--sparse=always', old, copy]);
    execFileSync('sync', [copy]);
    copying!.push(performance.now() - started);
    rmSync(copy);
    const begun = performance.now();
    let compared: number | undefined;
    await writeChanged({
      from: old,
      plan,
      path: made,
      temporary: `${made}.part`,
      isNew: true,
      signal: new AbortController().signal,
      onProgress: ({ phase }) => {
        if (phase === 'comparing') compared ??= performance.now();
      },
    });
    writing!.push(compared! - begun);
    comparing!.push(performance.now() - compared!);
    allocated = statSync(made).blocks * 512;
    if (i < 2) rmSync(made);
  }
  const started = performance.now();
  execFileSync('sh', ['-c', 'cat "$0" "$1" > /dev/null', old, made]);
  const reading = performance.now() - started;
  return [
    {
      name: 'an image from a plan of 20 MiB over 64 GB, written / cp of it',
      runs: ratios(writing!, copying!),
      limit: 1.15,
      unit: '×',
      detail: `${Math.round(median(writing!))} and ${Math.round(median(copying!))} ms, both with a sync; ${Math.round(allocated / MIB)} MiB on the disk`,
    },
    {
      name: 'the same, compared / reading both files once',
      runs: comparing!.map((one) => one / reading),
      limit: 1,
      unit: '×',
      detail: `${Math.round(median(comparing!))} and ${Math.round(reading)} ms`,
    },
  ];
}

export async function benchChanging(folder: string): Promise<Row[]> {
  const scratch = mkdtempSync(path.join(folder, 'bench-'));
  try {
    return [await keeping(), ...(await changing(scratch))];
  } finally {
    rmSync(scratch, { recursive: true, force: true });
  }
}
