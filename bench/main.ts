/** Runs all measurements, prints the table, writes it as JSON. Ends with 1 when a limit is not kept. */
import { mkdirSync, writeFileSync } from 'node:fs';
import { cpus } from 'node:os';
import path from 'node:path';
import { benchAnswering } from './answering';
import { benchArchives } from './archives';
import { benchBuilding } from './building';
import { benchChanging } from './changing';
import { benchCrowd } from './crowd';
import { benchDesigning } from './designing';
import { benchExt } from './ext';
import { benchExtReading } from './ext-reading';
import { benchFilling } from './filling';
import { benchPlacing } from './placing';
import { benchRepacking } from './repacking';
import type { Row } from './row';
import { benchServing } from './serving';
import { benchSurveying } from './surveying';
import { benchTerminal } from './terminal';

const RESULTS = path.resolve('bench-results');

function figure(n: number): string {
  return n < 10 ? n.toFixed(3) : n.toFixed(1);
}

function print(rows: readonly Row[]): void {
  for (const { name, measured, limit, unit, detail } of rows) {
    const verdict = measured <= limit ? 'kept' : 'NOT KEPT';
    console.log(
      `${name.padEnd(60)} ${figure(measured).padStart(9)} ${unit.padEnd(4)} limit ${figure(limit).padStart(8)}  ${verdict}  (${detail})`,
    );
  }
}

/** The measurements by name; `npm run bench -- NAME …` runs some of them. */
const SECTIONS: Record<string, () => Row[] | Promise<Row[]>> = {
  placing: benchPlacing,
  designing: benchDesigning,
  building: () => benchBuilding(RESULTS),
  filling: () => benchFilling(RESULTS),
  ext: () => benchExt(RESULTS),
  'ext-reading': () => benchExtReading(RESULTS),
  repacking: () => benchRepacking(RESULTS),
  surveying: () => benchSurveying(RESULTS),
  changing: () => benchChanging(RESULTS),
  terminal: () => benchTerminal(RESULTS),
  serving: () => benchServing(RESULTS),
  archives: () => benchArchives(RESULTS),
  answering: () => benchAnswering(RESULTS),
  crowd: () => benchCrowd(RESULTS),
};

async function main(): Promise<void> {
  const asked = process.argv.slice(2);
  const unknown = asked.filter((name) => !(name in SECTIONS));
  if (unknown.length > 0)
    throw new Error(`There is no measurement “${unknown[0]}”. There are: ${Object.keys(SECTIONS).join(', ')}.`);
  mkdirSync(RESULTS, { recursive: true });
  const machine = `${cpus()[0]!.model}, ${cpus().length} cores, Node ${process.version}`;
  console.log(machine);
  const rows: Row[] = [];
  for (const [name, measure] of Object.entries(SECTIONS))
    if (asked.length === 0 || asked.includes(name)) rows.push(...(await measure()));
  print(rows);
  if (asked.length === 0)
    writeFileSync(path.join(RESULTS, 'latest.json'), `${JSON.stringify({ machine, rows }, null, 2)}\n`);
  process.exit(rows.every((row) => row.measured <= row.limit) ? 0 : 1);
}

void main();
