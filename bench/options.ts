/** What was asked for at the command line of the measurements. */
import { parseArgs } from 'node:util';

export interface Options {
  /** Only the figures that matter daily, in five minutes. */
  readonly quick: boolean;
  /** A results file of an earlier run, to print ratios to. */
  readonly against: string | undefined;
  /** Sections to run; all where none is named. */
  readonly sections: readonly string[];
}

function read(): Options {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: { quick: { type: 'boolean', default: false }, against: { type: 'string' } },
  });
  return { quick: values.quick, against: values.against, sections: positionals };
}

/** Options of this run. Throws a TypeError that names an unknown option. */
export const OPTIONS = read();

/** Fewer where it is to be quick. */
export const quickly = <T>(few: T, all: T): T => (OPTIONS.quick ? few : all);
