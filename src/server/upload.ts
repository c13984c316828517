/**
 * Taking up image files, and deleting them. Answered ahead of the web framework, which would
 * hold a whole upload in memory or cut it.
 */
import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Context } from './context';
import { errorAnswer } from './http';
import { receiveImageFile, removeImageFile } from './image-folder';
import { Refusal } from './refusal';
import { checkedHeaders, decoded } from './requests/check';
import { ImageHeaders } from './requests/uploads';

const PATH = /^\/api\/files\/([^/]+)$/;

/** The name of the file that a request is about; undefined for every other request. */
export function fileAskedFor(url: string | undefined): string | undefined {
  const match = PATH.exec(new URL(url ?? '/', 'http://localhost').pathname);
  return match ? decoded(match[1]!) : undefined;
}

/** Answers PUT (an upload) and DELETE of a file. Never rejects. */
export async function answerFile(context: Context, name: string, request: IncomingMessage, response: ServerResponse) {
  const answer = (status: number, body: unknown) =>
    response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));
  try {
    if (request.method === 'PUT') {
      const { 'content-length': size } = checkedHeaders(request.headers, ImageHeaders);
      answer(201, await receiveImageFile(context, name, size, request as AsyncIterable<Uint8Array>));
    } else if (request.method === 'DELETE') {
      await removeImageFile(context, name);
      answer(200, {});
    } else throw new Refusal(405, 'method-refused', 'A file can be sent or deleted.', 'method');
  } catch (error) {
    const { status, answer: body } = errorAnswer(error);
    if (!response.destroyed) {
      // What is left of a refused upload is not read: the connection ends with the answer.
      response.setHeader('connection', 'close');
      answer(status, body);
    }
  }
}
