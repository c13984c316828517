/** Why the server did not start: the path that it is about, the cause, and what to do. */
import { systemTrouble } from '../files/system-errors';

const HINT = 'Mend that, or name another folder in LOESS_DATA.';

/** Sentences by what the system said of a path. */
const OF_PATHS: Readonly<Record<string, (path: string) => string>> = {
  EEXIST: (path) => `${path} is a file, and the data folder needs a folder there. ${HINT}`,
  ENOTDIR: (path) => `A part of ${path} is a file, and the data folder needs folders there. ${HINT}`,
  EISDIR: (path) => `${path} is a folder, and the data folder needs a file there. ${HINT}`,
  ENOENT: (path) => `${path} cannot be made: there is no such place. ${HINT}`,
  EACCES: (path) => `${path} may not be read or written by this user. ${HINT}`,
  EPERM: (path) => `${path} may not be written by this user. ${HINT}`,
  EROFS: (path) => `${path} lies on a disk that is mounted read-only. ${HINT}`,
  ENOSPC: (path) => `The disk of ${path} is full. Free some space, then start again.`,
  EDQUOT: (path) => `The room that this user has on the disk of ${path} is used up. Free some of it, then start again.`,
};

/** What to say of an error at the start. Errors with a sentence of their own are told by that. */
export function startTrouble(error: Error): string {
  const { code, path } = error as NodeJS.ErrnoException;
  const known = code === undefined || path === undefined ? undefined : OF_PATHS[code]?.(path);
  return known ?? systemTrouble(error)?.sentence ?? error.message;
}
