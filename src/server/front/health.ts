/** Whether the server works, for whoever watches it. */
import type { IncomingMessage, ServerResponse } from 'node:http';
import { sql } from 'drizzle-orm';
import type { Context } from '../context';
import { log } from '../log';

const SINCE = new Date().toISOString();

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
  };
  response.writeHead(database === 'works' ? 200 : 503, {
    'content-type': 'application/json',
    'cache-control': 'no-store',
  });
  response.end(request.method === 'HEAD' ? undefined : JSON.stringify(body));
}
