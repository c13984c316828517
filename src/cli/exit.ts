/** How the terminal program ends. The numbers are part of what it promises: see docs/terminal.md. */
export const EXIT = {
  done: 0,
  stop: 1,
  usage: 2,
  document: 3,
  file: 4,
  risk: 5,
  readBack: 6,
  fault: 70,
  hungUp: 129,
  interrupted: 130,
  readerGone: 141,
  terminated: 143,
} as const;
export type Exit = (typeof EXIT)[keyof typeof EXIT];

/** When it ends with which number, in a few words. */
export const ENDINGS: Readonly<Record<keyof typeof EXIT, string>> = {
  done: 'done, nothing stands in the way',
  stop: 'a stop stands, in the layout or in the surveyed image; or a data folder, or a volume that was examined, is damaged',
  usage: 'it was called wrongly',
  document: 'the document is no valid layout',
  file: 'a file could not be read or written',
  risk: 'a risk stands that is not accepted in the document',
  readBack: 'what was written reads back differently: a fault of the program or the disk, not of the layout',
  fault: 'a fault of the program itself',
  hungUp: 'its terminal went away (SIGHUP); nothing partial is left',
  interrupted: 'interrupted (SIGINT); nothing partial is left',
  readerGone: 'whoever read the answer went away, and nothing stood in the way',
  terminated: 'terminated (SIGTERM); nothing partial is left',
};

/** The signals that end every command, with the numbers that shells know them by. */
export const SIGNALS = { SIGHUP: EXIT.hungUp, SIGINT: EXIT.interrupted, SIGTERM: EXIT.terminated } as const;

/** An end before the end: why, in a sentence, and with which number. */
export class Ended extends Error {
  constructor(
    readonly exit: Exit,
    readonly code: string,
    sentence: string,
    /** More about it, one line each. */
    readonly lines: readonly string[] = [],
  ) {
    super(sentence);
  }
}

/** The end that a signal asked for; its number is the reason of the abort. */
export function interrupted({ reason }: AbortSignal, sentence = 'Interrupted.'): Ended {
  const exit = Object.values(SIGNALS).find((one) => one === reason) ?? EXIT.interrupted;
  return new Ended(exit, 'interrupted', sentence);
}
