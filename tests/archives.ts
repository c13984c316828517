/** Archives for tests, good and bad: made with general libraries, and spoilt by hand where those refuse. */
import { type Readable } from 'node:stream';
import { buffer } from 'node:stream/consumers';
import { type Header, pack } from 'tar-stream';
import { ZipFile } from 'yazl';

/** A tar of these members. */
export async function tarOf(
  members: readonly (Partial<Header> & { name: string; content?: string | Buffer })[],
): Promise<Buffer> {
  const tar = pack();
  for (const { content = '', ...header } of members)
    tar.entry(
      { mtime: new Date('2026-03-01T12:00:00Z'), ...header },
      typeof content === 'string' ? Buffer.from(content) : content,
    );
  tar.finalize();
  return buffer(tar);
}

/** A zip of these files. */
export async function zipOf(files: Readonly<Record<string, string | Buffer>>, mode = 0o100644): Promise<Buffer> {
  const zip = new ZipFile();
  for (const [name, content] of Object.entries(files)) {
    const bytes = typeof content === 'string' ? Buffer.from(content) : content;
    if (name.endsWith('/')) zip.addEmptyDirectory(name, { mtime: new Date('2026-03-01T12:00:00') });
    else zip.addBuffer(bytes, name, { mtime: new Date('2026-03-01T12:00:00'), mode });
  }
  zip.end();
  return buffer(zip.outputStream as Readable);
}

/** The archive with a name in it replaced by another one of the same length, wherever it stands. */
export function renamed(archive: Buffer, from: string, to: string): Buffer {
  if (from.length !== to.length) throw new RangeError('names must be equally long');
  return Buffer.from(archive.toString('latin1').replaceAll(from, to), 'latin1');
}

/** Bytes as an upload that comes in pieces. */
export async function* inPieces(bytes: Uint8Array, size = 1000): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += size) {
    await Promise.resolve();
    yield bytes.subarray(at, at + size);
  }
}

/** An upload that breaks off after so many bytes. */
export async function* brokenOff(bytes: Uint8Array, after: number): AsyncGenerator<Uint8Array> {
  yield* inPieces(bytes.subarray(0, after));
  throw Object.assign(new Error('aborted'), { code: 'ECONNRESET' });
}
