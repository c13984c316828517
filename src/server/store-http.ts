/**
 * Uploads of contents, and downloads of stored files and of files in volumes. Answered ahead of
 * the web framework, which would hold them in memory.
 */
import { createReadStream } from 'node:fs';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { pipeline } from 'node:stream/promises';
import { withVolumeFile } from './browsing';
import type { Context } from './context';
import { errorAnswer } from './http';
import { Refusal } from './refusal';
import { checkedHeaders, checkedQuery } from './requests/check';
import { StoredQuery, VolumeQuery } from './requests/queries';
import { ArchiveUpload, BlobUpload, ContentHeaders, FileUpload, FolderUpload } from './requests/uploads';
import { takeIn } from './taking-in';
import { addArchive, addBlob, addFile, addFolder, storedFile } from './store';

const PATH = /^\/api\/contents\/(file|folder|archive|blob|layout|stored|volume)$/;

/** What a request to the contents asks for; undefined for every other request. */
export function contentAskedFor(url: string | undefined): { what: string; query: URLSearchParams } | undefined {
  const { pathname, searchParams } = new URL(url ?? '/', 'http://localhost');
  const match = PATH.exec(pathname);
  return match ? { what: match[1]!, query: searchParams } : undefined;
}

/** The body, which must be exactly as long as it said. */
async function* bodyOf(request: IncomingMessage, length: number): AsyncGenerator<Uint8Array> {
  let received = 0;
  const brokenOff = () =>
    new Refusal(400, 'upload-broken-off', 'The upload ended early. Send it again; nothing of it was kept.', 'body');
  try {
    for await (const chunk of request as AsyncIterable<Uint8Array>) {
      received += chunk.length;
      yield chunk;
    }
  } catch (error) {
    throw (error as NodeJS.ErrnoException).code === 'ECONNRESET' ? brokenOff() : error;
  }
  if (received !== length) throw brokenOff();
}

async function upload(
  context: Context,
  what: string,
  query: URLSearchParams,
  request: IncomingMessage,
): Promise<unknown> {
  const { 'content-length': length } = checkedHeaders(request.headers, ContentHeaders);
  const body = bodyOf(request, length);
  switch (what) {
    case 'file': {
      const { name, time, ...target } = checkedQuery(query, FileUpload);
      return addFile(context, target, { name, time }, body);
    }
    case 'folder':
      return addFolder(context, checkedQuery(query, FolderUpload), length, body);
    case 'archive': {
      const { leaveOut, keepsAll, ...target } = checkedQuery(query, ArchiveUpload);
      const options = { leaveOut: leaveOut === 'yes', keepsAll: keepsAll === 'yes' };
      return addArchive(context, target, options, body);
    }
    case 'blob':
      return addBlob(context, checkedQuery(query, BlobUpload).name, body);
    case 'layout':
      return takeIn(context, checkedQuery(query, BlobUpload).name, body);
    default:
      throw new Refusal(405, 'method-refused', 'This can only be fetched.', 'method');
  }
}

function head(response: ServerResponse, size: number, name: string): void {
  response.writeHead(200, {
    'content-type': 'application/octet-stream',
    'content-length': size,
    'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name.replace(/\p{Cs}/gu, '_')).replace(/['()*]/g, (c) => `%${c.charCodeAt(0).toString(16)}`)}`,
    'cache-control': 'no-store',
    'x-content-type-options': 'nosniff',
  });
}

/** The part of a file that is asked for, `bytes=from-to`; all of it where nothing sound is asked. */
function rangeOf(header: string | undefined, size: number): { start: number; end: number } | undefined {
  const match = /^bytes=(\d{1,15})-(\d{1,15})$/.exec(header ?? '');
  if (!match) return undefined;
  const [start, end] = [Number(match[1]), Math.min(Number(match[2]), size - 1)];
  return start <= end ? { start, end } : undefined;
}

async function download(
  context: Context,
  what: string,
  query: URLSearchParams,
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  if (what === 'stored') {
    const { sha256, name, at = 0, length } = checkedQuery(query, StoredQuery);
    const { path, size } = await storedFile(context, sha256);
    if (at > 0 || length !== undefined) {
      const end = Math.min(size, at + (length ?? size));
      if (at >= end && length !== 0)
        throw new Refusal(404, 'content-ends-before', `What is stored has ${size} bytes; this part lies behind.`, 'at');
      head(response, Math.max(0, end - at), name || 'content');
      if (at >= end) response.end();
      else await pipeline(createReadStream(/* turbopackIgnore: true */ path, { start: at, end: end - 1 }), response);
      return;
    }
    const range = rangeOf(request.headers.range, size);
    if (range) {
      response.writeHead(206, {
        'content-type': 'application/octet-stream',
        'content-length': range.end - range.start + 1,
        'content-range': `bytes ${range.start}-${range.end}/${size}`,
      });
      await pipeline(createReadStream(/* turbopackIgnore: true */ path, range), response);
      return;
    }
    head(response, size, name || 'content');
    await pipeline(createReadStream(/* turbopackIgnore: true */ path), response);
    return;
  }
  if (what !== 'volume') throw new Refusal(405, 'method-refused', 'Contents can be sent here with PUT.', 'method');
  await withVolumeFile(context, checkedQuery(query, VolumeQuery), async (file, bytes) => {
    head(response, file.size, file.name);
    await pipeline(bytes, response);
  });
}

/** Answers an upload (PUT) or a download (GET). Never rejects. */
export async function answerContent(
  context: Context,
  { what, query }: { what: string; query: URLSearchParams },
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  try {
    if (request.method === 'GET') return await download(context, what, query, request, response);
    if (request.method !== 'PUT')
      throw new Refusal(405, 'method-refused', 'Contents can be sent or fetched.', 'method');
    const answer = await upload(context, what, query, request);
    response.writeHead(201, { 'content-type': 'application/json' }).end(JSON.stringify(answer));
  } catch (error) {
    if (response.headersSent || response.destroyed) {
      response.destroy();
      return;
    }
    const { status, answer } = errorAnswer(error);
    // What is left of a refused upload is not read: the connection ends with the answer.
    response.setHeader('connection', 'close');
    response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(answer));
  }
}
