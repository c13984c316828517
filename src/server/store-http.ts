/**
 * Uploads of contents, and downloads of stored files and of files in volumes. Answered ahead of
 * the web framework, which would hold them in memory.
 */
import type { IncomingMessage, ServerResponse } from 'node:http';
import { pipeline } from 'node:stream/promises';
import { withVolumeFile } from './browsing';
import type { Context } from './context';
import { Refusal } from './refusal';
import { checkedHeaders, checkedQuery } from './requests/check';
import { StoredQuery, VolumeQuery } from './requests/queries';
import { ArchiveUpload, BlobUpload, ContentHeaders, FileUpload, FolderUpload } from './requests/uploads';
import { openPlain } from '../files/plain-file';
import { attachment, sendFile, watched } from './sending';
import { takeIn } from './taking-in';
import { addArchive, addBlob, addFile, addFolder, storedFile } from './store';

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
    default:
      return takeIn(context, checkedQuery(query, BlobUpload).name, body);
  }
}

/** What nobody knows the type of. */
const TYPE = 'application/octet-stream';

/** A stored file, or the part of it that the query names. */
async function sendStored(
  context: Context,
  query: URLSearchParams,
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  const { sha256, name, at = 0, length } = checkedQuery(query, StoredQuery);
  const { path, size } = await storedFile(context, sha256);
  const end = Math.min(size, at + (length ?? size));
  if (at > end || (at === end && at > 0 && length !== 0))
    throw new Refusal(404, 'content-ends-before', `What is stored has ${size} bytes; this part lies behind.`, 'at');
  const file = await openPlain(path);
  try {
    const facts = { offset: at, size: end - at, type: TYPE, name: name || 'content', tag: `${sha256}-${at}-${end}` };
    await sendFile(file, facts, request, response);
  } finally {
    await file.close();
  }
}

/** A file of a volume: its length is known, its parts are not kept. */
async function sendFromVolume(
  context: Context,
  query: URLSearchParams,
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  await withVolumeFile(context, checkedQuery(query, VolumeQuery), async (file, bytes) => {
    response.writeHead(200, {
      'content-type': TYPE,
      'content-length': file.size,
      'content-disposition': attachment(file.name),
      'accept-ranges': 'none',
      'cache-control': 'no-store',
    });
    if (request.method === 'HEAD') response.end();
    else {
      watched(response);
      await pipeline(bytes, response);
    }
  });
}

/** Answers an upload (PUT) or a download (GET). Rejects with what is refused, and where the client leaves. */
export async function answerContent(
  context: Context,
  { what, query }: { what: string; query: URLSearchParams },
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  if (what === 'stored') return sendStored(context, query, request, response);
  if (what === 'volume') return sendFromVolume(context, query, request, response);
  const answer = await upload(context, what, query, request);
  response.writeHead(201, { 'content-type': 'application/json' }).end(JSON.stringify(answer));
}
