/**
 * The download of an image. It lives beside the App Router because route handlers there lose
 * the content-length header, without which a browser shows no progress.
 */
import { createReadStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { createGzip } from 'node:zlib';
import type { NextApiRequest, NextApiResponse } from 'next';
import { finishedImage } from '@/server/builds';
import { currentContext } from '@/server/context';
import { errorAnswer } from '@/server/http';
import { Refusal } from '@/server/refusal';

export const config = { api: { bodyParser: false, responseLimit: false } };

const CHUNK = 256 * 1024;

export default async function handler(request: NextApiRequest, response: NextApiResponse): Promise<void> {
  try {
    if (request.method !== 'GET' && request.method !== 'HEAD')
      throw new Refusal(405, 'method-refused', 'An image can only be fetched.');
    const { as = 'raw', id } = request.query;
    if (as !== 'raw' && as !== 'gzip')
      throw new Refusal(400, 'form-unknown', 'The field “as” must be raw or gzip.', 'as');
    const image = await finishedImage(currentContext(), String(id));
    const name = as === 'gzip' ? `${image.name}.gz` : image.name;
    response.setHeader('content-type', as === 'gzip' ? 'application/gzip' : 'application/octet-stream');
    response.setHeader('content-disposition', `attachment; filename="${name}"`);
    response.setHeader('cache-control', 'no-store');
    if (as === 'raw') response.setHeader('content-length', image.size);
    if (request.method === 'HEAD') return void response.end();
    const bytes = createReadStream(image.path, { highWaterMark: CHUNK });
    await (as === 'gzip'
      ? pipeline(bytes, createGzip({ level: 6, chunkSize: CHUNK }), response)
      : pipeline(bytes, response));
  } catch (error) {
    if (response.headersSent) return void response.destroy();
    const { status, answer } = errorAnswer(error);
    response.removeHeader('content-length');
    response.status(status).json(answer);
  }
}
