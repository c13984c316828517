/**
 * The download of an image. It lives beside the App Router because route handlers there lose
 * the content-length header, without which a browser shows no progress.
 */
import { createReadStream } from 'node:fs';
import { open } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import type { NextApiRequest, NextApiResponse } from 'next';
import { finishedImage } from '@/server/builds';
import { currentContext } from '@/server/context';
import { errorAnswer } from '@/server/http';
import { Refusal } from '@/server/refusal';
import { sparseGzip } from '@/server/sparse-gzip';

export const config = { api: { bodyParser: false, responseLimit: false } };

const CHUNK = 256 * 1024;

async function sendGzip(path: string, response: NextApiResponse): Promise<void> {
  const file = await open(path, 'r');
  await pipeline(sparseGzip(file), response).finally(() => file.close());
}

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
    if (as === 'raw') await pipeline(createReadStream(image.path, { highWaterMark: CHUNK }), response);
    else await sendGzip(image.path, response);
  } catch (error) {
    if (response.headersSent) return void response.destroy();
    const { status, answer } = errorAnswer(error);
    response.removeHeader('content-length');
    response.status(status).json(answer);
  }
}
