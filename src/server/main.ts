/**
 * The server program: opens the data folder, recovers, and serves the web application on
 * the loopback address. The guard stands in front of everything, pages and files included.
 */
import { createServer } from 'node:http';
import path from 'node:path';
import next from 'next';
import { recoverBuilds } from './builds';
import { installContext, openContext } from './context';
import { addDemoLayouts } from './demo';
import { answerImage, imageAskedFor } from './download';
import { answerContent, contentAskedFor } from './store-http';
import { systemTrouble } from '../files/system-errors';
import { sweepQuietly } from './sweeping';
import { refuseAddress, refuseStranger } from './guard';
import { errorAnswer } from './http';
import { addSimulatedMedia } from './simulated-media';
import { readDevices } from './sysfs';
import { answerFile, fileAskedFor } from './upload';

const HOST = '127.0.0.1';
const DAY = 24 * 60 * 60 * 1000;

function positive(text: string | undefined, name: string): number | undefined {
  if (text === undefined || text === '') return undefined;
  const n = Number(text);
  if (!Number.isSafeInteger(n) || n <= 0) throw new Error(`${name} must be a whole number above zero, not “${text}”.`);
  return n;
}

const notAdded = (what: string) => (error: Error) =>
  console.error(`The ${what} were not added: ${systemTrouble(error)?.sentence ?? error.message}`);

/** Starts everything; the promise resolves when requests are answered. */
async function main(): Promise<void> {
  const port = positive(process.env.PORT, 'PORT') ?? 4310;
  const development = process.argv.includes('--development');
  const root = process.cwd();
  const context = await openContext({
    data: process.env.LOESS_DATA ?? path.join(root, 'data'),
    devices: () => readDevices(process.env.LOESS_SYSTEM_ROOT || '/'),
    writeRate: positive(process.env.LOESS_WRITE_RATE, 'LOESS_WRITE_RATE'),
  });
  installContext(context);
  const interrupted = await recoverBuilds(context);
  if (interrupted > 0) console.log(`${interrupted} build(s) were interrupted when the server last ended.`);
  await sweepQuietly(context);
  // Without room for them the server works all the same; a later start adds them.
  await addDemoLayouts(context, path.join(root, 'demo')).catch(notAdded('demo layouts'));
  await addSimulatedMedia(context, path.join(root, 'demo', 'bench')).catch(notAdded('simulated media'));

  const web = next({ dev: development, dir: root, hostname: HOST, port });
  await web.prepare();
  const handle = web.getRequestHandler();
  const server = createServer((request, response) => {
    const refusal = refuseStranger(request, port) ?? refuseAddress(request.url);
    if (refusal) {
      const { status, answer } = errorAnswer(refusal);
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(answer));
      return;
    }
    const image = imageAskedFor(request.url);
    const file = fileAskedFor(request.url);
    const content = contentAskedFor(request.url);
    if (image) void answerImage(context, image, request, response);
    else if (content) void answerContent(context, content, request, response);
    else if (file !== undefined) void answerFile(context, file, request, response);
    else void handle(request, response);
  });
  // A large upload may take longer than the usual five minutes.
  server.requestTimeout = 0;
  server.on('error', (error: NodeJS.ErrnoException) => {
    console.error(error.code === 'EADDRINUSE' ? `Port ${port} is in use. Name another in PORT.` : error.message);
    void context.close().then(() => process.exit(1));
  });
  server.listen(port, HOST, () => console.log(`Loess is at http://${HOST}:${port}`));

  const sweeping = setInterval(() => void sweepQuietly(context), DAY);
  const stop = () => {
    clearInterval(sweeping);
    server.closeAllConnections();
    server.close();
    void context.close().then(() => process.exit(0));
  };
  process.once('SIGINT', stop);
  process.once('SIGTERM', stop);
}

main().catch((error: Error) => {
  console.error(systemTrouble(error)?.sentence ?? error.message);
  process.exit(1);
});
