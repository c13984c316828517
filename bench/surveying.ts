/** Surveying a sparse image of 2 TB with a hundred partitions, as a file of which nothing is known. */
import { mkdtempSync, rmSync } from 'node:fs';
import { open } from 'node:fs/promises';
import path from 'node:path';
import { checkSurvey } from '@/core/findings/survey/check';
import type { Layout, Slot } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import { surveyMedium } from '@/core/survey/survey';
import { fileSource } from '@/files/file-source';
import { writeImage } from '@/files/image-file';
import type { Row } from './row';

const RUNS = 5;

export function hundredPartitions(): Layout {
  const slots = Array.from({ length: 100 }, (_, i): Slot => {
    const content = { kind: 'fat', label: `GAUGE ${i}`, volumeId: `7A1D-1${String(i).padStart(3, '0')}` } as const;
    const size = ['10 MiB', '200 MiB', '20 GiB', 'rest'][i % 4]!;
    return { id: `s${i}`, kind: 'partition', name: `Slot ${i}`, role: 'data', size, ...(i % 3 > 0 && { content }) };
  });
  return {
    format: 'loess-layout',
    version: 2,
    name: 'A hundred partitions',
    date: '2026-03-01T12:00:00',
    medium: { kind: 'image', capacity: { exact: '2 TB' }, logicalSector: 512, physicalSector: 512 },
    boots: [],
    table: { kind: 'gpt', diskId: '6d617272-616d-4c0a-8d05-7469646573aa' },
    slots,
  };
}

export async function benchSurveying(folder: string): Promise<Row[]> {
  const scratch = mkdtempSync(path.join(folder, 'bench-'));
  const file = path.join(scratch, 'hundred.img');
  const placement = place(hundredPartitions());
  await writeImage({ placement, path: file, signal: new AbortController().signal, onProgress: () => undefined });
  const handle = await open(file, 'r');
  const times: number[] = [];
  let read = 0;
  let found = '';
  for (let i = 0; i < RUNS; i++) {
    const started = performance.now();
    const survey = await surveyMedium(fileSource(handle, placement.medium.capacity), { sectorSize: 512 });
    const findings = checkSurvey(survey);
    times.push(performance.now() - started);
    read = survey.read;
    found = `${survey.partitions.length} partitions, ${findings.length} findings`;
  }
  await handle.close();
  rmSync(scratch, { recursive: true });
  return [
    { name: 'survey 2 TB, 100 partitions, median', runs: times, limit: 1000, unit: 'ms', detail: found },
    {
      name: 'survey 2 TB, 100 partitions: bytes read',
      runs: [read / 2 ** 20],
      limit: 64,
      unit: 'MiB',
      detail: `${read} bytes`,
    },
  ];
}
