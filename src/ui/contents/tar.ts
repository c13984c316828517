/**
 * A folder as one body to send: a tar (POSIX pax interchange format) whose pieces are the files
 * themselves, so that the browser reads them only while they are sent.
 */

const BLOCK = 512;

/** A file with its path below what was dropped. */
export interface Dropped {
  readonly path: string;
  readonly file: Blob & { readonly lastModified?: number };
}

function octal(value: number, length: number): string {
  return (
    value
      .toString(8)
      .padStart(length - 1, '0')
      .slice(0, length - 1) + '\0'
  );
}

/** A header block; numbers that do not fit stand in the pax header before it. */
function header(name: string, size: number, seconds: number, type: string): Uint8Array<ArrayBuffer> {
  const block = new Uint8Array(BLOCK);
  const put = (at: number, text: string) => block.set(new TextEncoder().encode(text), at);
  put(0, name);
  put(100, octal(0o644, 8));
  put(108, octal(0, 8));
  put(116, octal(0, 8));
  put(124, octal(Math.min(size, 8 ** 11 - 1), 12));
  put(136, octal(seconds, 12));
  put(148, ' '.repeat(8));
  put(156, type);
  put(257, 'ustar\u000000');
  put(
    148,
    octal(
      block.reduce((sum, byte) => sum + byte, 0),
      7,
    ) + ' ',
  );
  return block;
}

/** One record of a pax header: its own length in decimal, a blank, key and value, a line end. */
function paxRecord(key: string, value: string): string {
  const body = ` ${key}=${value}\n`;
  const bytes = new TextEncoder().encode(body).length;
  let length = bytes + String(bytes).length;
  if (String(length).length + bytes !== length) length = bytes + String(length).length;
  return `${length}${body}`;
}

function padded(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(Math.ceil(bytes.length / BLOCK) * BLOCK);
  out.set(bytes);
  return out;
}

/** The body for these files, in their order. */
export function tarBlob(files: readonly Dropped[]): Blob {
  const parts: BlobPart[] = [];
  for (const { path, file } of files) {
    const seconds = Math.max(0, Math.floor((file.lastModified ?? 0) / 1000));
    const pax = new TextEncoder().encode(paxRecord('path', path) + paxRecord('size', String(file.size)));
    parts.push(header('file', pax.length, seconds, 'x'), padded(pax), header('file', file.size, seconds, '0'), file);
    const rest = (BLOCK - (file.size % BLOCK)) % BLOCK;
    if (rest > 0) parts.push(new Uint8Array(rest));
  }
  parts.push(new Uint8Array(2 * BLOCK));
  return new Blob(parts);
}

/** What a browser tells of something dropped: files, and folders that can be read in pieces. */
interface Entry {
  readonly isFile: boolean;
  readonly name: string;
  readonly file?: (done: (file: File) => void, failed: (error: Error) => void) => void;
  readonly createReader?: () => {
    readEntries: (done: (entries: Entry[]) => void, failed: (error: Error) => void) => void;
  };
}

async function inside(entry: Entry, above: string): Promise<Dropped[]> {
  const path = above === '' ? entry.name : `${above}/${entry.name}`;
  if (entry.isFile) return [{ path, file: await new Promise<File>((done, failed) => entry.file!(done, failed)) }];
  const reader = entry.createReader!();
  const found: Dropped[] = [];
  for (;;) {
    // A reader gives a folder in pieces; an empty one is the end.
    const entries = await new Promise<Entry[]>((done, failed) => reader.readEntries(done, failed));
    if (entries.length === 0) return found;
    for (const one of entries) found.push(...(await inside(one, path)));
  }
}

/** Everything that was dropped, folders with all that is in them. */
export async function droppedFiles(data: DataTransfer): Promise<Dropped[]> {
  const entries = [...data.items].flatMap((item) => (item.webkitGetAsEntry() as Entry | null) ?? []);
  const found: Dropped[] = [];
  for (const entry of entries) found.push(...(await inside(entry, '')));
  return found;
}

/** Files that were chosen in a dialog: with the path below the chosen folder, where one was. */
export function chosenFiles(list: FileList): Dropped[] {
  return [...list].map((file) => ({ path: file.webkitRelativePath || file.name, file }));
}
