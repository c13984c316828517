/**
 * Runs measurements; each section prints its rows when it is done, and the results file has them then. A section that fails is
 * reported, and the others run. Ends with 1 when a limit is not kept, or a section failed.
 *
 *   npm run bench                      all sections
 *   npm run bench -- filling ext       these sections
 *   npm run bench -- --quick           what matters daily, in at most five minutes
 *   npm run bench -- --against FILE    with ratios to an earlier run
 */
import { execFileSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { cpus } from 'node:os';
import path from 'node:path';
import { benchAnswering } from './answering';
import { benchArchives } from './archives';
import { benchBuilding } from './building';
import { benchChanging } from './changing';
import { benchCrowd } from './crowd';
import { benchDesigning } from './designing';
import { benchDragging } from './dragging';
import { benchExt } from './ext';
import { benchExtReading } from './ext-reading';
import { benchFilling } from './filling';
import { benchHostile } from './hostile';
import { OPTIONS } from './options';
import { benchPlacing } from './placing';
import { QuietCheck } from './quiet';
import { benchRepacking } from './repacking';
import { earlierResults, isKept, keep, lineOf, type Result, resultOf } from './report';
import type { Row } from './row';
import { benchServing } from './serving';
import { benchSurveying } from './surveying';
import { benchTerminal } from './terminal';

const RESULTS = path.resolve('bench-results');

interface Section {
  readonly run: (folder: string) => Row[] | Promise<Row[]>;
  /** It belongs to `--quick`, with fewer runs. */
  readonly isDaily?: boolean;
}

/** The measurements by name. */
const SECTIONS: Readonly<Record<string, Section>> = {
  placing: { run: benchPlacing, isDaily: true },
  terminal: { run: benchTerminal, isDaily: true },
  answering: { run: benchAnswering, isDaily: true },
  dragging: { run: benchDragging, isDaily: true },
  filling: { run: benchFilling, isDaily: true },
  designing: { run: benchDesigning },
  building: { run: benchBuilding },
  ext: { run: benchExt },
  'ext-reading': { run: benchExtReading },
  repacking: { run: benchRepacking },
  surveying: { run: benchSurveying },
  hostile: { run: benchHostile },
  changing: { run: benchChanging },
  serving: { run: benchServing },
  archives: { run: benchArchives },
  crowd: { run: benchCrowd },
};

function commit(): string {
  try {
    return execFileSync('git', ['describe', '--always', '--dirty'], { encoding: 'utf8' }).trim();
  } catch {
    return 'unknown';
  }
}

function chosen(): [string, Section][] {
  const { sections, quick } = OPTIONS;
  const unknown = sections.filter((name) => !(name in SECTIONS));
  if (unknown.length > 0)
    throw new Error(`There is no section “${unknown[0]}”. There are: ${Object.keys(SECTIONS).join(', ')}.`);
  return Object.entries(SECTIONS).filter(([name, { isDaily }]) =>
    sections.length > 0 ? sections.includes(name) : !quick || isDaily,
  );
}

async function main(): Promise<number> {
  const sections = chosen();
  const earlier = OPTIONS.against === undefined ? undefined : earlierResults(OPTIONS.against);
  mkdirSync(RESULTS, { recursive: true });
  const begun = new Date().toISOString();
  const file = path.join(RESULTS, `${begun.replace(/[:.]/g, '-')}.json`);
  const machine = `${cpus()[0]!.model}, ${cpus().length} cores, Node ${process.version}`;
  console.log(machine);
  const quiet = new QuietCheck();
  const rows: Result[] = [];
  const failures: Record<string, string> = {};
  let before = await quiet.reasons();
  if (before.length > 0)
    console.log(`The machine is not quiet: ${before.join(', ')}. Figures may be worse than they are.`);
  for (const [name, { run }] of sections) {
    console.log(`\n== ${name}`);
    try {
      const measured = await run(RESULTS);
      const after = await quiet.reasons();
      const results = measured.map((row) => resultOf(name, row, [...new Set([...before, ...after])]));
      before = after;
      for (const one of results) console.log(lineOf(one, earlier));
      rows.push(...results);
    } catch (error) {
      failures[name] = (error as Error).message;
      console.log(`FAILED: ${(error as Error).stack ?? String(error)}`);
      before = await quiet.reasons();
    }
    keep(file, { machine, commit: commit(), begun, rows, failures });
  }
  const missed = rows.filter((row) => !isKept(row));
  console.log(`\nResults: ${path.relative(process.cwd(), file)}`);
  for (const { name } of missed) console.log(`NOT KEPT: ${name}`);
  for (const [name, why] of Object.entries(failures)) console.log(`FAILED: ${name}: ${why}`);
  return missed.length + Object.keys(failures).length === 0 ? 0 : 1;
}

main().then(
  (code) => process.exit(code),
  (error: Error) => {
    console.error(error.message);
    process.exit(2);
  },
);
