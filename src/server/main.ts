/**
 * The server program: opens the data folder, recovers, and serves the web application on
 * the loopback address. The guard stands in front of everything, pages and files included.
 */
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import path from 'node:path';
import next from 'next';
import { recoverBuilds } from './builds';
import { installContext, openContext } from './context';
import { addDemoLayouts } from './demo';
import { systemTrouble } from '../files/system-errors';
import { sweepQuietly } from './sweeping';
import { frontOf } from './front/front';
import { installLog, log } from './log';
import { openLog } from './log-file';
import { startTrouble } from './start-trouble';
import { addSimulatedMedia } from './simulated-media';
import { readDevices } from './sysfs';

const HOST = '127.0.0.1';
const DAY = 24 * 60 * 60 * 1000;

function positive(text: string | undefined, name: string): number | undefined {
  if (text === undefined || text === '') return undefined;
  const n = Number(text);
  if (!Number.isSafeInteger(n) || n <= 0) throw new Error(`${name} must be a whole number above zero, not “${text}”.`);
  return n;
}

const notAdded = (what: string) => (error: Error) =>
  log.error(`The ${what} were not added: ${systemTrouble(error)?.sentence ?? error.message}`, { error });

/** True where the log goes elsewhere than to whoever starts the server. */
let isLogged = false;

/** Says why the server does not run, once to whoever started it, and in the log where that is another place. */
function endedBy(sentence: string, facts: object): void {
  if (isLogged) log.error(sentence, facts);
  console.error(sentence);
}

/** Starts everything; the promise resolves when requests are answered. */
async function main(): Promise<void> {
  const port = positive(process.env.PORT, 'PORT') ?? 4310;
  const development = process.argv.includes('--development');
  const root = process.cwd();
  const data = path.resolve(process.env.LOESS_DATA || path.join(root, 'data'));
  installLog(openLog(process.env.LOESS_LOG));
  isLogged = process.env.LOESS_LOG !== undefined;
  process.on('unhandledRejection', (error) => log.error('Nobody waited for something that failed.', { error }));
  const context = await openContext({
    data,
    devices: () => readDevices(process.env.LOESS_SYSTEM_ROOT || '/'),
    writeRate: positive(process.env.LOESS_WRITE_RATE, 'LOESS_WRITE_RATE'),
  });
  installContext(context);
  const interrupted = await recoverBuilds(context);
  if (interrupted > 0) log.warn(`${interrupted} build(s) were interrupted when the server last ended.`);
  await sweepQuietly(context);
  // Without room for them the server works all the same; a later start adds them.
  await addDemoLayouts(context, path.join(root, 'demo')).catch(notAdded('demo layouts'));
  await addSimulatedMedia(context, path.join(root, 'demo', 'bench')).catch(notAdded('simulated media'));

  const web = next({ dev: development, dir: root, hostname: HOST, port });
  await web.prepare();
  const handle = web.getRequestHandler();
  const framework = (request: IncomingMessage, response: ServerResponse) => handle(request, response);
  const front = frontOf({ context, port, framework, isDevelopment: development });
  const server = createServer(front).on('checkContinue', front);
  // A large upload may take longer than the usual five minutes.
  server.requestTimeout = 0;
  server.on('error', (error: NodeJS.ErrnoException) => {
    const sentence = error.code === 'EADDRINUSE' ? `Port ${port} is in use. Name another in PORT.` : error.message;
    endedBy(sentence, { port, error });
    void context.close().then(() => process.exit(1));
  });
  server.listen(port, HOST, () => {
    log.info('started', { data, port, process: process.pid });
    console.log(`Loess is at http://${HOST}:${port}`);
  });

  const sweeping = setInterval(() => void sweepQuietly(context), DAY);
  const stop = (signal: NodeJS.Signals) => {
    log.info('stopping', { signal });
    clearInterval(sweeping);
    server.closeAllConnections();
    server.close();
    void context.close().then(() => process.exit(0));
  };
  process.once('SIGINT', stop);
  process.once('SIGTERM', stop);
}

main().catch((error: Error) => {
  const sentence = startTrouble(error);
  endedBy(sentence, { error });
  process.exit(1);
});
