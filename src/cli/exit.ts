/** How the terminal program ends. The numbers are part of what it promises: see docs/terminal.md. */
export const EXIT = {
  /** Done; nothing stands in the way. */
  done: 0,
  /** A stop stands: in the layout (check, build), in what was found (survey), or a data folder is damaged. */
  stop: 1,
  /** The program was called in a way that it does not understand. */
  usage: 2,
  /** The document is not a valid layout. */
  document: 3,
  /** A file could not be read or written. */
  file: 4,
  /** A risk stands that nobody has accepted. */
  risk: 5,
  /** What was written reads back differently. */
  readBack: 6,
  /** It was interrupted. */
  interrupted: 130,
} as const;
export type Exit = (typeof EXIT)[keyof typeof EXIT];

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
