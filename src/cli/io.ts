/** What the terminal program needs from its surroundings, so that tests can give their own. */
import { readFile, stat } from 'node:fs/promises';
import path from 'node:path';
import type { Layout } from '@/core/layout/document';
import { DOCUMENT_LIMIT, readLayout } from '@/core/layout/validate';
import { Ended, EXIT } from './exit';

export interface Io {
  readonly out: (text: string) => void;
  readonly error: (text: string) => void;
  readonly stdin: () => Promise<string>;
  readonly signal: AbortSignal;
  /** True where progress can be shown on one line. */
  readonly isTerminal: boolean;
}

/** Why a file cannot be used, as an end of the program. */
export function fileTrouble(what: string, error: unknown): Ended {
  const { code, message } = error as NodeJS.ErrnoException;
  const sentences: Readonly<Record<string, string>> = {
    ENOENT: 'there is no such file',
    EACCES: 'it may not be opened',
    EISDIR: 'it is a folder',
    EEXIST: 'it is there already, or a build into it has not ended',
    ENOSPC: 'the disk is full; nothing partial was left',
  };
  return new Ended(EXIT.file, code ?? 'file', `“${what}”: ${sentences[code ?? ''] ?? message.replace(/\.$/, '')}.`);
}

/** Why a file cannot be made: where its folder is missing, that. */
export async function folderTrouble(file: string, error: unknown): Promise<Ended> {
  const folder = path.dirname(path.resolve(file));
  const isMissing = (error as NodeJS.ErrnoException).code === 'ENOENT' && !(await stat(folder).catch(() => undefined));
  if (!isMissing) return fileTrouble(file, error);
  return new Ended(EXIT.file, 'ENOENT', `“${file}”: there is no folder “${path.dirname(file)}”; make it first.`);
}

async function textOf(io: Io, name: string): Promise<string> {
  if (name === '-') return io.stdin();
  try {
    return await readFile(name, 'utf8');
  } catch (error) {
    throw fileTrouble(name, error);
  }
}

/** Reads and validates a document; `-` is the standard input. */
export async function documentFrom(io: Io, name: string): Promise<Layout> {
  const text = await textOf(io, name);
  const read = readLayout(text.slice(0, DOCUMENT_LIMIT + 1));
  if (read.ok) return read.value;
  const lines = read.error.map(({ path, message }) => `${path === '' ? 'the document' : path} ${message}`);
  const what = name === '-' ? 'The document' : `“${name}”`;
  throw new Ended(EXIT.document, 'document-invalid', `${what} is no valid layout.`, lines);
}
