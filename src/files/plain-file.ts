/** Opening what should be a plain file: pipes, folders, devices and links that stand in its place are told, and never waited for. */
import { constants } from 'node:fs';
import { type FileHandle, open } from 'node:fs/promises';

/** What stands where a plain file should be. */
export class NotPlain extends Error {
  constructor(
    readonly path: string,
    /** `a folder`, `a pipe` … */
    readonly what: string,
  ) {
    super(`${path} is ${what}, and no plain file.`);
  }
}

type Kinds = Pick<
  Awaited<ReturnType<FileHandle['stat']>>,
  'isFile' | 'isDirectory' | 'isFIFO' | 'isSocket' | 'isSymbolicLink'
>;

/** What something is that is no plain file, in words; undefined for a plain one. */
export function strangeness(found: Kinds): string | undefined {
  if (found.isFile()) return undefined;
  if (found.isDirectory()) return 'a folder';
  if (found.isFIFO()) return 'a pipe';
  if (found.isSocket()) return 'a socket';
  return found.isSymbolicLink() ? 'a link' : 'a device';
}

/**
 * Opens a plain file to read it; throws a NotPlain where it is something else. Opening a pipe does not wait for its other
 * end. `followed`: a link is followed, as where a person named it.
 */
export async function openPlain(path: string, link: 'refused' | 'followed' = 'refused'): Promise<FileHandle> {
  const { O_RDONLY, O_NONBLOCK, O_NOFOLLOW } = constants;
  const handle = await open(
    /* turbopackIgnore: true */ path,
    O_RDONLY | O_NONBLOCK | (link === 'followed' ? 0 : O_NOFOLLOW),
  ).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ELOOP') throw new NotPlain(path, 'a link');
    if (error.code === 'ENXIO') throw new NotPlain(path, 'a socket');
    throw error;
  });
  try {
    const what = strangeness(await handle.stat());
    if (what !== undefined) throw new NotPlain(path, what);
    return handle;
  } catch (error) {
    await handle.close();
    throw error;
  }
}

/** The text of a plain file. */
export async function plainText(path: string): Promise<string> {
  const handle = await openPlain(path);
  try {
    return await handle.readFile('utf8');
  } finally {
    await handle.close();
  }
}

/** The bytes of a plain file, or a range of them (`end` inclusive), in pieces. */
export async function* plainBytes(
  path: string,
  options: {
    readonly start?: number;
    readonly end?: number;
    readonly highWaterMark: number;
    readonly signal?: AbortSignal;
  },
): AsyncGenerator<Uint8Array> {
  const handle = await openPlain(path);
  try {
    yield* handle.createReadStream({ ...options, autoClose: false }) as AsyncIterable<Uint8Array>;
  } finally {
    await handle.close();
  }
}
