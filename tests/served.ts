/** A server of a test's own: the front as it stands before everything, without the web framework behind it. */
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Context } from '@/server/context';
import { frontOf } from '@/server/front/front';

export interface Served {
  readonly server: Server;
  readonly port: number;
  readonly base: string;
  readonly close: () => void;
}

/** What answers in place of the framework. */
const NOBODY = (_: IncomingMessage, response: ServerResponse) => {
  response.writeHead(404).end();
  return Promise.resolve();
};

/** Serves a context on a free port; `framework` answers what the front does not. */
export async function served(context: Context, framework = NOBODY): Promise<Served> {
  const answer = (request: IncomingMessage, response: ServerResponse) => front(request, response);
  const server = createServer(answer).on('checkContinue', answer);
  // A connection is never closed for being idle: the next test may be about to use it.
  server.keepAliveTimeout = 0;
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  const front = frontOf({ context, port, framework, isDevelopment: false });
  const close = () => {
    server.closeAllConnections();
    server.close();
  };
  return { server, port, base: `http://127.0.0.1:${port}`, close };
}
