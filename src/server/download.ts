/**
 * The download of an image, raw or as gzip. It is answered ahead of the web framework, which
 * would lose the content-length (without which a browser shows no progress) and copy every byte.
 */
import type { FileHandle } from 'node:fs/promises';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { finishedImage } from './builds';
import type { Context } from './context';
import { checkedParts, checkedQuery } from './requests/check';
import { BuildPath } from './requests/paths';
import { ImageQuery } from './requests/queries';
import { openPlain } from '../files/plain-file';
import { sparseGzip } from '../files/sparse-gzip';
import { attachment, sendFile, sent, watched } from './sending';

/** Sends an image as gzip, which is made on the way: how long it will be nobody knows, and no part can be asked for. */
async function sendGzip(
  file: FileHandle,
  name: string,
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  response.writeHead(200, {
    'content-type': 'application/gzip',
    'content-disposition': attachment(`${name}.gz`),
    'accept-ranges': 'none',
    'cache-control': 'no-store',
  });
  if (request.method !== 'HEAD') {
    watched(response);
    for await (const piece of sparseGzip(file)) await sent(response, piece);
  }
  response.end();
}

/** Answers a request for an image. Rejects with what is refused, and where the client leaves. */
export async function answerImage(
  context: Context,
  asked: { id: string; query: URLSearchParams },
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  const { id } = checkedParts({ id: asked.id }, BuildPath);
  const isGzip = checkedQuery(asked.query, ImageQuery).as === 'gzip';
  const { path, name, size } = await finishedImage(context, id);
  const file = await openPlain(path);
  try {
    if (isGzip) await sendGzip(file, name, request, response);
    else await sendFile(file, { size, type: 'application/octet-stream', name, tag: id }, request, response);
  } finally {
    await file.close();
  }
}
