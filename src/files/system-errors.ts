/** What the system refuses: told apart from what is only not there, and in sentences: the same ones wherever it happens. */

/** What was asked for, or undefined where it is not there; every other refusal stays one, because it says nothing of what is there. */
export async function ifThere<T>(work: Promise<T>): Promise<T | undefined> {
  try {
    return await work;
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'ENOENT' || code === 'ENOTDIR') return undefined;
    throw error;
  }
}

/** Something that the system refused: a code for programs and what to say. */
export interface SystemTrouble {
  readonly code: string;
  readonly sentence: string;
}

const TROUBLES: Readonly<Record<string, SystemTrouble>> = {
  full: {
    code: 'disk-full',
    sentence: 'The disk that holds the data folder is full. Free some space, then try again; nothing partial was left.',
  },
  fault: {
    code: 'disk-fault',
    sentence:
      'The disk that holds the data folder could not read or write (an input/output error). Look at the system’s log, and check the data folder before you go on; nothing partial was left.',
  },
  database: {
    code: 'database-damaged',
    sentence:
      'The database could not be read right: its disk is faulty, or it is damaged. Try again; if it stays so, check the data folder, and restore a backup where that finds damage.',
  },
  cannotOpen: {
    code: 'cannot-open',
    sentence:
      'The database could not be opened: its disk is full or faulty, or too many files are open. Mend that, then try again.',
  },
  busy: {
    code: 'database-busy',
    sentence:
      'Another program, a backup say, holds the database for a while. Try again in a moment; nothing was changed.',
  },
  files: {
    code: 'too-many-open-files',
    sentence: 'The system lets this program open no more files. Wait until other work is over, then try again.',
  },
  readOnly: {
    code: 'read-only',
    sentence:
      'The data folder cannot be written to: its disk is mounted read-only, or it belongs to somebody else. Mend that, then try again.',
  },
};

const BY_CODE: Readonly<Record<string, SystemTrouble>> = {
  ENOSPC: TROUBLES.full!,
  EDQUOT: TROUBLES.full!,
  SQLITE_FULL: TROUBLES.full!,
  EIO: TROUBLES.fault!,
  SQLITE_IOERR: TROUBLES.fault!,
  SQLITE_CORRUPT: TROUBLES.database!,
  SQLITE_NOTADB: TROUBLES.database!,
  SQLITE_BUSY: TROUBLES.busy!,
  SQLITE_CANTOPEN: TROUBLES.cannotOpen!,
  EMFILE: TROUBLES.files!,
  ENFILE: TROUBLES.files!,
  EROFS: TROUBLES.readOnly!,
  EACCES: TROUBLES.readOnly!,
  EPERM: TROUBLES.readOnly!,
  SQLITE_READONLY: TROUBLES.readOnly!,
};

/** Results of SQLite by their number: what libSQL says of a file that it cannot open has no code. */
const BY_RESULT: Readonly<Record<string, SystemTrouble>> = {
  5: TROUBLES.busy!,
  8: TROUBLES.readOnly!,
  10: TROUBLES.fault!,
  11: TROUBLES.database!,
  13: TROUBLES.full!,
  14: TROUBLES.cannotOpen!,
  26: TROUBLES.database!,
};

function notOpened({ message }: Error): SystemTrouble | undefined {
  const result = /^ConnectionFailed\(".*: (\d+)"\)$/.exec(message)?.[1];
  return result === undefined ? undefined : (BY_RESULT[result] ?? TROUBLES.cannotOpen);
}

/** SQLite tells a full disk behind another error where it met it while opening a file of its own. */
const DEPTH = 6;

/** What to say of an error that comes from the system, looked for along its causes; undefined for any other. */
export function systemTrouble(error: unknown): SystemTrouble | undefined {
  let one = error;
  for (let depth = 0; depth < DEPTH && one instanceof Error; depth++) {
    const { code } = one as NodeJS.ErrnoException;
    const known =
      typeof code === 'string' ? (BY_CODE[code] ?? BY_CODE[code.replace(/^(SQLITE_[A-Z]+)_.*/, '$1')]) : undefined;
    const trouble = known ?? notOpened(one);
    if (trouble) return trouble;
    one = one.cause;
  }
  return undefined;
}
