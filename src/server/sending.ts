/**
 * Sending a file (RFC 9110): whole or a range of it, with a length, a tag by which a client goes on where it broke off, and
 * nothing at all where only the headers are asked for. A client that leaves, or takes nothing for a while, frees its file.
 */
import type { FileHandle } from 'node:fs/promises';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { Refusal } from './refusal';

/** Bytes that are read at a time. */
const WINDOW = 512 * 1024;
/** A client that takes nothing for so long has gone, in milliseconds. */
const PATIENCE = 120_000;

/** What is sent. */
export interface Sendable {
  readonly size: number;
  /** Byte of the file at which it begins; 0 where nothing is said. */
  readonly offset?: number;
  readonly type: string;
  /** What it is called where it is kept. */
  readonly name: string;
  /** Tells these bytes from any others at this address. */
  readonly tag: string;
}

/** First and last byte of a part, both inclusive. */
interface Part {
  readonly first: number;
  readonly last: number;
}

/**
 * The part that a `Range` asks for ("Range Requests"): undefined where all is to be sent, because none is asked for, or
 * several, or nothing that can be read; `beyond` where it lies behind the end.
 */
function partOf(header: string | undefined, size: number): Part | 'beyond' | undefined {
  const match = /^bytes=(\d{0,15})-(\d{0,15})$/.exec(header?.replace(/\s/g, '') ?? '');
  if (!match) return undefined;
  const [from, to] = [match[1]!, match[2]!];
  if (from === '' && to === '') return undefined;
  if (from === '') {
    const length = Math.min(Number(to), size);
    return length === 0 ? 'beyond' : { first: size - length, last: size - 1 };
  }
  const [first, last] = [Number(from), to === '' ? size - 1 : Math.min(Number(to), size - 1)];
  if (to !== '' && Number(to) < first) return undefined;
  return first >= size ? 'beyond' : { first, last };
}

/** The header that names what is kept, for any name. */
export function attachment(name: string): string {
  const whole = name.replace(/\p{Cs}/gu, '_');
  const escaped = encodeURIComponent(whole).replace(/['()*]/g, (c) => `%${c.charCodeAt(0).toString(16)}`);
  return /^[\w. -]+$/.test(whole) ? `attachment; filename="${whole}"` : `attachment; filename*=UTF-8''${escaped}`;
}

/** Resolves when the bytes have left for the system, so that their buffer can be used again; rejects when the client has left. */
export function sent(response: ServerResponse, bytes: Uint8Array): Promise<void> {
  return new Promise((resolve, reject) => {
    const gone = () => reject(new Error('the client has left'));
    if (response.destroyed || response.closed) return gone();
    response.once('close', gone);
    response.write(bytes, (error) => {
      response.off('close', gone);
      if (error) reject(error);
      else resolve();
    });
  });
}

/** Ends an answer whose client takes nothing for too long. */
export function watched(response: ServerResponse): void {
  response.setTimeout(PATIENCE, () => response.destroy());
}

/** Sends the bytes of a part; one window is read while the one before it is sent. */
async function sendPart(file: FileHandle, { first, last }: Part, response: ServerResponse): Promise<void> {
  const windows = [Buffer.allocUnsafeSlow(WINDOW), Buffer.allocUnsafeSlow(WINDOW)] as const;
  let sending: Promise<void> = Promise.resolve();
  for (let position = first, turn = 0; position <= last; turn ^= 1) {
    const window = windows[turn as 0 | 1];
    const { bytesRead } = await file.read(window, 0, Math.min(WINDOW, last + 1 - position), position);
    await sending;
    if (bytesRead === 0) throw new Error(`the file ends at byte ${position}, and ${last + 1} were there`);
    sending = sent(response, window.subarray(0, bytesRead));
    // Awaited in the next round; a client that leaves meanwhile must not end the process.
    sending.catch(() => undefined);
    position += bytesRead;
  }
  await sending;
}

/** Sends an open file, or the part that is asked for. Throws a Refusal before anything was sent, and other errors while it is. */
export async function sendFile(
  file: FileHandle,
  { size, offset = 0, type, name, tag }: Sendable,
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  const { headers } = request;
  const etag = `"${tag}"`;
  const common = { etag, 'accept-ranges': 'bytes', 'cache-control': 'no-store' };
  if (headers['if-none-match']?.split(/\s*,\s*/).includes(etag)) {
    response.writeHead(304, common).end();
    return;
  }
  // A part of other bytes than the client has the beginning of would be of no use to it.
  const isSame = headers['if-range'] === undefined || headers['if-range'] === etag;
  const part = isSame ? partOf(headers.range, size) : undefined;
  if (part === 'beyond') {
    response.setHeader('content-range', `bytes */${size}`);
    throw new Refusal(
      416,
      'range-beyond-the-end',
      `There are ${size} bytes; the part that is asked for lies behind them.`,
      'range',
    );
  }
  const { first, last } = part ?? { first: 0, last: size - 1 };
  response.writeHead(part ? 206 : 200, {
    ...common,
    'content-type': type,
    'content-length': last + 1 - first,
    'content-disposition': attachment(name),
    ...(part && { 'content-range': `bytes ${first}-${last}/${size}` }),
  });
  if (request.method !== 'HEAD') {
    watched(response);
    await sendPart(file, { first: offset + first, last: offset + last }, response);
  }
  response.end();
}
