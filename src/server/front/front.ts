/**
 * What stands in front of everything: who asks, what for, and by which method. Every request is answered, with an id under
 * which the log tells of it, whatever goes wrong behind.
 */
import { randomBytes, randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Context } from '../context';
import { answerImage } from '../download';
import { refuseStranger } from '../guard';
import { errorAnswer } from '../http';
import { forRequest, log } from '../log';
import { Refusal } from '../refusal';
import { answerContent } from '../store-http';
import { answerFile } from '../upload';
import { COMMON, DATA_POLICY, pagePolicy } from './headers';
import { health, watchWaits } from './health';
import { allowed, type Method, PAGE_METHODS, routeOf } from './routes';
import { type Target, targetOf } from './target';

/** How the web framework answers. */
type Framework = (request: IncomingMessage, response: ServerResponse) => Promise<void>;

export interface FrontOptions {
  readonly context: Context;
  readonly port: number;
  readonly framework: Framework;
  readonly isDevelopment: boolean;
}

/** A request that is let through: its target, and the parts of a route. */
interface Asked {
  readonly target: Target;
  readonly parts: Readonly<Record<string, string>>;
  readonly request: IncomingMessage;
  readonly response: ServerResponse;
}

type Answer = (context: Context, asked: Asked) => Promise<void>;

/** Answered ahead of the framework, which would hold whole bodies in memory, or lose their length. */
const OWN: Readonly<Record<string, Answer>> = {
  '/api/health': (context, { response, request }) => health(context, request, response),
  '/api/images/[id]': (context, { parts, target, request, response }) =>
    answerImage(context, { id: parts.id!, query: target.query }, request, response),
  '/api/files/[name]': (context, { parts, request, response }) => answerFile(context, parts.name!, request, response),
  ...Object.fromEntries(
    ['file', 'folder', 'archive', 'blob', 'layout', 'stored', 'volume'].map((what): [string, Answer] => [
      `/api/contents/${what}`,
      (context, { target, request, response }) =>
        answerContent(context, { what, query: target.query }, request, response),
    ]),
  ),
};

const isData = ({ segments }: Target) => segments[0] === 'api';

/** Lets a client send its body that waits for a word whether it is wanted: what is refused before this is never sent. */
function goOn({ headers }: IncomingMessage, response: ServerResponse): void {
  if (headers.expect?.toLowerCase() === '100-continue') response.writeContinue();
}

/** Refuses a method that an address does not take, and says which it does. */
function refuseMethod(methods: readonly Method[], request: IncomingMessage, response: ServerResponse): boolean {
  const words = allowed(methods);
  if (request.method !== 'OPTIONS' && words.includes(request.method ?? '')) return false;
  response.setHeader('allow', words.join(', '));
  if (request.method === 'OPTIONS') {
    response.writeHead(204).end();
    return true;
  }
  throw new Refusal(
    405,
    'method-refused',
    `This address takes ${words.slice(0, -1).join(', ')}, and not ${(request.method ?? '').slice(0, 20)}.`,
    'method',
  );
}

async function answered(
  { context, port, framework, isDevelopment }: FrontOptions,
  request: IncomingMessage,
  response: ServerResponse,
) {
  response.setHeader('content-security-policy', DATA_POLICY);
  const stranger = refuseStranger(request, port);
  if (stranger) throw stranger;
  const target = targetOf(request.url);
  if (isData(target)) {
    const found = routeOf(target.segments);
    if (!found)
      throw new Refusal(
        404,
        'address-unknown',
        'There is nothing at this address; docs/api.md lists them all.',
        'address',
      );
    const { route, parts } = found;
    if (refuseMethod(Object.keys(route.methods) as Method[], request, response)) return;
    goOn(request, response);
    const own = OWN[route.path];
    return own ? own(context, { target, parts, request, response }) : framework(request, response);
  }
  if (refuseMethod(PAGE_METHODS, request, response)) return;
  // Pictures are made by nobody: the framework's own maker of them is never asked.
  if (target.pathname.startsWith('/_next/image'))
    throw new Refusal(404, 'address-unknown', 'There is nothing at this address.', 'address');
  const nonce = randomBytes(16).toString('base64');
  const policy = pagePolicy(nonce, isDevelopment);
  // The framework takes the nonce for its own scripts from here, and the page for its one.
  request.headers['content-security-policy'] = policy;
  request.headers['x-nonce'] = nonce;
  response.setHeader('content-security-policy', policy);
  return framework(request, response);
}

/** Answers with why something was refused, or with what went wrong; where an answer has begun, it ends. */
function answerError(error: unknown, request: IncomingMessage, response: ServerResponse): void {
  if (response.destroyed) {
    log.debug('The client left while it was answered.', { error });
    return;
  }
  const { status, answer } = errorAnswer(error);
  if (response.headersSent) {
    response.destroy();
    return;
  }
  const body = Buffer.from(JSON.stringify(answer));
  response.writeHead(status, {
    'content-type': 'application/json',
    'content-length': body.length,
    'cache-control': 'no-store',
    ...(isSending(request) && { connection: 'close' }),
  });
  if (request.method === 'HEAD') response.end();
  else if (isSending(request)) lingering(request, response, body);
  else response.end(body);
}

/** True while a client may still send of its body. */
function isSending({ complete, headers }: IncomingMessage): boolean {
  const length = headers['content-length'];
  return !complete && (headers['transfer-encoding'] !== undefined || (length !== undefined && length !== '0'));
}

/** How long the rest of a body is thrown away that nobody wants, in milliseconds. */
const LINGER = 1500;

/**
 * Sends an answer while the client still sends: closing at once would throw the answer away on its side, so that it sees a
 * broken pipe and no sentence. What comes for a while is read for nothing.
 */
function lingering(request: IncomingMessage, response: ServerResponse, body: Buffer): void {
  const end = () => {
    clearTimeout(timer);
    request.off('end', end).off('close', end);
    response.end();
  };
  const timer = setTimeout(end, LINGER);
  request.once('end', end).once('close', end);
  response.write(body);
  request.resume();
}

/** What answers every request. It never throws, and never leaves one without an answer. */
export function frontOf(options: FrontOptions): (request: IncomingMessage, response: ServerResponse) => void {
  watchWaits();
  return (request, response) => {
    const requestId = randomUUID();
    const started = performance.now();
    response.setHeader('x-request-id', requestId);
    for (const [name, value] of Object.entries(COMMON)) response.setHeader(name, value);
    forRequest({ requestId, isGone: () => response.destroyed }, () => {
      response.once('close', () => {
        const { method, url } = request;
        const facts = {
          requestId,
          method,
          url: url?.slice(0, 300),
          status: response.statusCode,
          milliseconds: Math.round(performance.now() - started),
        };
        if (!response.writableFinished) log.debug('The client left before it had its answer.', facts);
        else log.debug('answered', facts);
      });
      answered(options, request, response).catch((error: unknown) => answerError(error, request, response));
    });
  };
}
