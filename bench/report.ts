/** What comes of the measurements: lines of the table, the results file, ratios to an earlier run. */
import { readFileSync, writeFileSync } from 'node:fs';
import { median, type Row } from './row';

/** A row as it is kept. */
export interface Result {
  readonly section: string;
  readonly name: string;
  readonly measured: number;
  /** The smallest and the largest figure of the runs, and how many there were. */
  readonly spread: { readonly least: number; readonly most: number; readonly runs: number };
  readonly limit: number;
  readonly unit: string;
  readonly detail: string;
  /** Why the machine was not quiet; empty where it was. */
  readonly noise: readonly string[];
}

export interface Results {
  readonly machine: string;
  readonly commit: string;
  readonly begun: string;
  readonly rows: readonly Result[];
  /** Sections that failed, with the reason. */
  readonly failures: Readonly<Record<string, string>>;
}

export function resultOf(section: string, { runs, of, ...row }: Row, noise: readonly string[]): Result {
  const [least, most] = [Math.min(...runs), Math.max(...runs)];
  const measured = of ? most : median(runs);
  return { section, ...row, measured, spread: { least, most, runs: runs.length }, noise };
}

export const isKept = ({ measured, limit }: Result) => measured <= limit;

const figure = (n: number) => (n < 10 ? n.toFixed(3) : n.toFixed(1));

/** A row as it is printed; with the ratio to an earlier figure of the same name and unit, where there is one. */
export function lineOf(result: Result, earlier: Results | undefined): string {
  const { name, measured, limit, unit, detail, noise, spread } = result;
  const verdict = isKept(result) ? 'kept' : 'NOT KEPT';
  const range =
    spread.runs === 1 ? '1 run' : `${figure(spread.least)} to ${figure(spread.most)} in ${spread.runs} runs`;
  const before = earlier?.rows.find((one) => one.name === name && one.unit === unit);
  const ratio = before && before.measured > 0 ? `  ${(measured / before.measured).toFixed(2)} × the earlier` : '';
  const mark = noise.length > 0 ? `  NOT QUIET: ${noise.join(', ')}` : '';
  return (
    `${name.padEnd(62)} ${figure(measured).padStart(9)} ${unit.padEnd(4)} limit ${figure(limit).padStart(8)}  ` +
    `${verdict.padEnd(8)}${ratio}  ${range}${mark}\n    ${detail}`
  );
}

/** Writes the results so far: a run that is ended keeps what it has. */
export function keep(file: string, results: Results): void {
  writeFileSync(file, `${JSON.stringify(results, null, 2)}\n`);
}

/** Reads the results of an earlier run. Throws an Error that says what is wrong with the file. */
export function earlierResults(file: string): Results {
  let found: Partial<Results>;
  try {
    found = JSON.parse(readFileSync(file, 'utf8')) as Partial<Results>;
  } catch (error) {
    throw new Error(`“${file}” cannot be read as results: ${(error as Error).message}`);
  }
  if (!Array.isArray(found.rows)) throw new Error(`“${file}” holds no results: it has no rows.`);
  return found as Results;
}
