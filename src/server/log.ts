/**
 * The log of the server: one JSON object a line, with time, level, and what it is about; of a request its id. Every room
 * of the server writes to the one of the process, and knows nothing of where that goes.
 */
import { AsyncLocalStorage } from 'node:async_hooks';

export type Level = 'debug' | 'info' | 'warn' | 'error';

export interface Log {
  write(level: Level, facts: Readonly<Record<string, unknown>>, sentence: string): void;
}

/** What is known of the request that something is done for. */
export interface RequestScope {
  readonly requestId: string;
  /** True once nobody waits for the answer any more. */
  readonly isGone: () => boolean;
}

// The web framework bundles its routes apart from the program that starts it: the process has one of each.
const KEY = Symbol.for('loess.log');
interface Shared {
  log: Log;
  readonly scope: AsyncLocalStorage<RequestScope>;
}
type Holder = { [KEY]?: Shared };

/** Where there is no server, only what is wrong is said. */
const PLAIN: Log = {
  write: (level, facts, sentence) => {
    if (level === 'error' || level === 'warn') console.error(sentence, ...Object.values(facts));
  },
};

function shared(): Shared {
  const holder = globalThis as Holder;
  return (holder[KEY] ??= { log: PLAIN, scope: new AsyncLocalStorage() });
}

/** Makes a log the one of this process. */
export function installLog(log: Log): void {
  shared().log = log;
}

/** Runs work for a request: what is logged meanwhile has its id. */
export function forRequest<T>(scope: RequestScope, work: () => T): T {
  return shared().scope.run(scope, work);
}

/** Runs work that goes on when its request was answered: what is logged has its id still, and nobody can leave. */
export function forJob<T>(work: () => T): T {
  return shared().scope.run({ requestId: requestId() ?? '', isGone: () => false }, work);
}

/** The id of the request that is worked for; undefined outside of one. */
export function requestId(): string | undefined {
  return shared().scope.getStore()?.requestId;
}

/** True where whoever asked for this has left. */
export function isClientGone(): boolean {
  return shared().scope.getStore()?.isGone() === true;
}

function write(level: Level, sentence: string, facts: Readonly<Record<string, unknown>>): void {
  const id = requestId();
  shared().log.write(level, { ...(id !== undefined && { requestId: id }), ...facts }, sentence);
}

/** What the server says of itself. An error is given as `error`. */
export const log = {
  debug: (sentence: string, facts = {}) => write('debug', sentence, facts),
  info: (sentence: string, facts = {}) => write('info', sentence, facts),
  warn: (sentence: string, facts = {}) => write('warn', sentence, facts),
  error: (sentence: string, facts = {}) => write('error', sentence, facts),
} as const;
