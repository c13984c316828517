/** Whether the server works, for whoever watches it. */
import type { IncomingMessage, ServerResponse } from 'node:http';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { sql } from 'drizzle-orm';
import type { Context } from '../context';
import { log } from '../log';

const SINCE = new Date().toISOString();

/** How often it is looked how long requests wait, in milliseconds; and seconds of it that are told. */
const [RESOLUTION, KEPT] = [2, 5];

/** How long this process could not turn to a request, at most, in each of the last seconds. */
const waits: number[] = [];
let isWatching = false;

/** Begins to watch how long requests wait for the process; it ends with it. */
export function watchWaits(): void {
  if (isWatching) return;
  isWatching = true;
  const delay = monitorEventLoopDelay({ resolution: RESOLUTION });
  delay.enable();
  setInterval(() => {
    waits.push(Math.max(0, delay.max / 1e6 - RESOLUTION));
    delay.reset();
    if (waits.length > KEPT) waits.shift();
  }, 1000).unref();
}

/** 200 with what is under way, or 503 where the database does not answer. */
export async function health(context: Context, request: IncomingMessage, response: ServerResponse): Promise<void> {
  let database: 'works' | 'fails' = 'works';
  try {
    await context.db.read.get(sql`select 1`);
  } catch (error) {
    database = 'fails';
    log.error('The database does not answer.', { error });
  }
  const body = {
    state: database === 'works' ? 'ok' : 'failing',
    since: SINCE,
    database,
    builds: context.buildQueue.length,
    digests: context.digestQueue.length,
    memory: process.memoryUsage.rss(),
    longestWait: Math.round(10 * Math.max(0, ...waits)) / 10,
  };
  response.writeHead(database === 'works' ? 200 : 503, {
    'content-type': 'application/json',
    'cache-control': 'no-store',
  });
  response.end(request.method === 'HEAD' ? undefined : JSON.stringify(body));
}
