/** What the terminal program needs from its surroundings, so that tests can give their own. */
import type { Stats } from 'node:fs';
import { type FileHandle, open, readFile, realpath, stat, writeFile } from 'node:fs/promises';
import path from 'node:path';
import type { Layout } from '@/core/layout/document';
import { type DocumentError, DOCUMENT_LIMIT } from '@/core/layout/validate';
import { errorText, type ReadDocument, readDocument } from '@/core/layout/written';
import { writeSmallFile } from '@/files/durable';
import { Ended, EXIT } from './exit';

/** Where it runs. */
export interface Terminal {
  readonly out: (text: string) => void;
  readonly error: (text: string) => void;
  readonly stdin: () => Promise<string>;
  readonly signal: AbortSignal;
  /** True where progress can be shown on one line. */
  readonly isTerminal: boolean;
}

/** What a command works with. */
export interface Io extends Terminal {
  /** Says something beside the answer; machines are not told. */
  readonly remark: (sentence: string) => void;
  /** Does what must be whole or not at all, and ends by itself when a signal came; all else ends at once. */
  readonly whole: <T>(part: () => Promise<T>) => Promise<T>;
}

/** Why a file cannot be used, as an end of the program. */
export function fileTrouble(what: string, error: unknown): Ended {
  const { code, message } = error as NodeJS.ErrnoException;
  const sentences: Readonly<Record<string, string>> = {
    ENOENT: 'there is no such file',
    EACCES: 'it may not be opened',
    EISDIR: 'it is a folder',
    EEXIST: 'it is there already',
    ENOSPC: 'the disk is full; nothing partial was left',
    ENOTDIR: 'a part of its path is no folder',
    ELOOP: 'its links lead in a circle',
    ENAMETOOLONG: 'its name is too long',
    EROFS: 'the disk can only be read',
    EPERM: 'it may not be changed',
    EIO: 'the disk fails',
  };
  return new Ended(EXIT.file, code ?? 'file', `“${what}”: ${sentences[code ?? ''] ?? message.replace(/\.$/, '')}.`);
}

/** What the kernel says of a block device: its bytes, and its sectors. */
async function deviceFacts({ rdev }: Stats): Promise<{ size: number; sectors: DeviceSectors }> {
  const [major, minor] = [(rdev >> 8) & 0xfff, (rdev & 0xff) | ((rdev >> 12) & 0xfff00)];
  const place = `/sys/dev/block/${major}:${minor}`;
  const figure = async (name: string) => Number(await readFile(`${place}/${name}`, 'utf8').catch(() => '512'));
  const sector = async (name: string) => ((await figure(`queue/${name}`)) === 4096 ? 4096 : 512);
  const size = Number(await readFile(`${place}/size`, 'utf8')) * 512;
  const logicalSector = await sector('logical_block_size');
  return { size, sectors: { logicalSector, physicalSector: await sector('physical_block_size') } };
}

/** Sectors of a device, in bytes. */
interface DeviceSectors {
  readonly logicalSector: 512 | 4096;
  readonly physicalSector: 512 | 4096;
}

/** An image, or a device, that was opened. */
interface OpenImage {
  readonly handle: FileHandle;
  readonly size: number;
  /** Of a device. */
  readonly sectors?: DeviceSectors;
}

/** Opens an image file or a block device to read it; everything else is refused by what it is. */
export async function openToSurvey(image: string): Promise<OpenImage> {
  try {
    const found = await stat(image);
    const what = kindOfFile(found);
    // Opening a pipe would wait for whoever writes into it.
    if (what !== undefined)
      throw new Ended(
        EXIT.file,
        'not-a-file',
        `“${image}” is ${what}; a survey reads here and there, so it needs a plain file or a block device.`,
      );
    const facts = found.isFile() ? { size: found.size } : await deviceFacts(found);
    return { handle: await open(image, 'r'), ...facts };
  } catch (error) {
    throw error instanceof Ended ? error : fileTrouble(image, error);
  }
}

/** What something is that has no bytes to go to; nothing for a plain file and a block device. */
function kindOfFile(found: Stats): string | undefined {
  if (found.isDirectory()) return 'a folder';
  if (found.isFIFO()) return 'a pipe';
  if (found.isSocket()) return 'a socket';
  return found.isCharacterDevice() ? 'a character device' : undefined;
}

/** Why a file cannot be made: where its folder is missing, that. */
export async function folderTrouble(file: string, error: unknown): Promise<Ended> {
  const folder = path.dirname(path.resolve(file));
  const isMissing = (error as NodeJS.ErrnoException).code === 'ENOENT' && !(await stat(folder).catch(() => undefined));
  if (!isMissing) return fileTrouble(file, error);
  return new Ended(EXIT.file, 'ENOENT', `“${file}”: there is no folder “${path.dirname(file)}”; make it first.`);
}

/** The text of a file; `-` is the standard input. */
export async function textOf(io: Io, name: string): Promise<string> {
  if (name === '-') return io.stdin();
  try {
    return await readFile(name, 'utf8');
  } catch (error) {
    throw fileTrouble(name, error);
  }
}

/** Whether an error is about something that can be filled in. */
function isFillable({ path: at, message }: DocumentError): boolean {
  return message.startsWith('is missing') && /(^date|\.(id|signature|diskId|volumeId|uuid))$/.test(at);
}

/** A document with the text that it was read from. */
export interface Document extends ReadDocument {
  readonly text: string;
}

/** Reads and validates a document; `-` is the standard input. */
export async function documentWritten(io: Io, name: string): Promise<Document> {
  return documentOf(io, name, await textOf(io, name));
}

/** What the text of a document says. */
export function documentOf(io: Io, name: string, text: string): Document {
  const read = readDocument(text.slice(0, DOCUMENT_LIMIT + 1), { byPath: true });
  const what = name === '-' ? 'The document' : `“${name}”`;
  if (!read.ok)
    throw new Ended(EXIT.document, 'document-invalid', `${what} is no valid layout.`, [
      ...read.error.map(errorText),
      ...(read.error.some(isFillable) ? [`loess fill-in ${name} writes what is missing.`] : []),
    ]);
  for (const remark of read.value.remarks) io.remark(`${what}: ${remark} It is read all the same.`);
  return { ...read.value, text };
}

/** The folder that the paths of a document begin at. */
export function folderOf(document: string): string {
  return document === '-' ? process.cwd() : path.dirname(document);
}

/** The layout of a document. */
export async function documentFrom(io: Io, name: string): Promise<Layout> {
  return (await documentWritten(io, name)).layout;
}

/** Gives a text to the output, or to a file that is not there yet, whole or not at all. */
export async function writeNew(io: Io, text: string, into: string | undefined): Promise<void> {
  if (into === undefined) return io.out(text);
  await io
    .whole(() => writeFile(into, text, { flag: 'wx' }))
    .catch(async (error: unknown) => {
      throw io.signal.aborted ? error : await folderTrouble(into, error);
    });
}

/** Puts another text into a file, whole or not at all, and leaves who may do what with it. */
export async function replaceText(io: Io, name: string, text: string): Promise<void> {
  try {
    // A link goes on leading to the file.
    const file = await realpath(name);
    const { mode } = await stat(file);
    await io.whole(() => writeSmallFile(file, text, mode & 0o7777));
  } catch (error) {
    throw io.signal.aborted ? error : fileTrouble(name, error);
  }
}
