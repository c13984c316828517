/**
 * Taking up image files, and deleting them. Answered ahead of the web framework, which would
 * hold a whole upload in memory or cut it.
 */
import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Context } from './context';
import { receiveImageFile, removeImageFile } from './image-folder';
import { checkedHeaders } from './requests/check';
import { ImageHeaders } from './requests/uploads';

/** Answers PUT (an upload) and DELETE of a file. Rejects with what is refused. */
export async function answerFile(context: Context, name: string, request: IncomingMessage, response: ServerResponse) {
  const answer = (status: number, body: unknown) =>
    response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));
  if (request.method === 'PUT') {
    const { 'content-length': size } = checkedHeaders(request.headers, ImageHeaders);
    answer(201, await receiveImageFile(context, name, size, request as AsyncIterable<Uint8Array>));
  } else {
    await removeImageFile(context, name);
    answer(200, {});
  }
}
