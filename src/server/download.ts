/**
 * The download of an image, raw or as gzip. It is answered ahead of the web framework, which
 * would lose the content-length (without which a browser shows no progress) and copy every byte.
 */
import type { FileHandle } from 'node:fs/promises';
import { open } from 'node:fs/promises';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { finishedImage } from './builds';
import type { Context } from './context';
import { errorAnswer } from './http';
import { Refusal } from './refusal';
import { checkedParts, checkedQuery, decoded } from './requests/check';
import { BuildPath } from './requests/paths';
import { ImageQuery } from './requests/queries';
import { sparseGzip } from '../files/sparse-gzip';

const PATH = /^\/api\/images\/([^/]+)$/;
const WINDOW = 512 * 1024;

/** The id of the build whose image a request asks for; undefined for every other request. */
export function imageAskedFor(url: string | undefined): { id: string; query: URLSearchParams } | undefined {
  const { pathname, searchParams } = new URL(url ?? '/', 'http://localhost');
  const match = PATH.exec(pathname);
  return match ? { id: decoded(match[1]!), query: searchParams } : undefined;
}

/** Resolves when the bytes have left for the system, so that their buffer can be used again. */
function sent(response: ServerResponse, bytes: Uint8Array): Promise<void> {
  return new Promise((resolve, reject) => response.write(bytes, (error) => (error ? reject(error) : resolve())));
}

/** Sends exactly `size` bytes; one window is read while the one before it is sent. */
async function sendRaw(file: FileHandle, size: number, response: ServerResponse): Promise<void> {
  const windows = [Buffer.allocUnsafeSlow(WINDOW), Buffer.allocUnsafeSlow(WINDOW)] as const;
  let sending: Promise<void> = Promise.resolve();
  for (let position = 0, turn = 0; position < size; turn ^= 1) {
    const { bytesRead } = await file.read(windows[turn as 0 | 1], 0, Math.min(WINDOW, size - position), position);
    await sending;
    if (bytesRead === 0) throw new Error(`the image ends at ${position} of ${size} bytes`);
    sending = sent(response, windows[turn as 0 | 1].subarray(0, bytesRead));
    // Awaited in the next round; a client that leaves meanwhile must not end the process.
    sending.catch(() => undefined);
    position += bytesRead;
  }
  await sending;
}

async function sendGzip(file: FileHandle, response: ServerResponse): Promise<void> {
  for await (const piece of sparseGzip(file)) await sent(response, piece);
}

/** Answers a request for an image. Never rejects: what is refused is told, a broken connection just ends. */
export async function answerImage(
  context: Context,
  asked: { id: string; query: URLSearchParams },
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  try {
    if (request.method !== 'GET' && request.method !== 'HEAD')
      throw new Refusal(405, 'method-refused', 'An image can only be fetched.', 'method');
    const { id } = checkedParts({ id: asked.id }, BuildPath);
    const isGzip = checkedQuery(asked.query, ImageQuery).as === 'gzip';
    const image = await finishedImage(context, id);
    const file = await open(/* turbopackIgnore: true */ image.path, 'r');
    try {
      response.writeHead(200, {
        'content-type': isGzip ? 'application/gzip' : 'application/octet-stream',
        'content-disposition': `attachment; filename="${image.name}${isGzip ? '.gz' : ''}"`,
        'cache-control': 'no-store',
        ...(!isGzip && { 'content-length': image.size }),
      });
      if (request.method === 'GET') await (isGzip ? sendGzip(file, response) : sendRaw(file, image.size, response));
      response.end();
    } finally {
      await file.close();
    }
  } catch (error) {
    if (response.headersSent) {
      response.destroy();
      return;
    }
    const { status, answer } = errorAnswer(error);
    response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(answer));
  }
}
