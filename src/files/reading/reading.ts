/**
 * A thread that reads what others wrote, so that whoever answers requests never waits for it. It is started when it is
 * first needed, and ended where an order is not answered in time; the other orders go to the next one.
 */
import { Worker } from 'node:worker_threads';
import { SourceShrank } from '@/core/bytes/blocks';
import { BudgetSpent } from '@/core/bytes/budget';
import { workerFile } from '../thread';
import {
  DEADLINE,
  type Failure,
  type FromThread,
  NoLongerAsked,
  type OpenFile,
  type OrderKind,
  type Orders,
  type ReadProgress,
} from './orders';

/** How long an order may be late until its thread is ended, in milliseconds; and one that nobody waits for any more. */
const [LATE, LATE_UNWANTED] = [5000, 2000];
/** How often it is looked whether somebody still waits. */
const LOOK = 50;
/** Memory of a thread that reads what others wrote, in MiB. */
const MEMORY = 512;
/** And of one that composes what goes into an image, of up to a million files: what a process of its own would have. */
export const COMPOSING_MEMORY = 4096;

/** How far work that takes long stands back, in the system's numbers. */
const NICENESS = 10;

const KNOWN = { NoLongerAsked, BudgetSpent, SourceShrank } as const;

function errorOf({ name, message, code }: Failure): Error {
  const Known = KNOWN[name as keyof typeof KNOWN] as (new (message: string) => Error) | undefined;
  return Known ? new Known(message) : Object.assign(new Error(message), code !== undefined && { code });
}

interface Pending {
  readonly kind: OrderKind;
  readonly file: OpenFile;
  readonly asked: Orders[OrderKind]['asked'];
  readonly onProgress: ((progress: ReadProgress) => void) | undefined;
  readonly resolve: (answer: never) => void;
  readonly reject: (error: Error) => void;
  /** It was in a thread that ended: in the next that does, it is given up. */
  hasEndedOne: boolean;
}

export class Reading {
  private thread: Worker | undefined;
  private readonly pending = new Map<number, Pending>();
  private last = 0;

  constructor(
    private readonly program = workerFile('read-worker'),
    private readonly late = { answer: DEADLINE + LATE, end: LATE_UNWANTED, now: () => performance.now() },
    private readonly niceness = 0,
    private readonly memory = MEMORY,
  ) {}

  /** One for work that takes long, and lets others go first, with so much memory, in MiB. */
  static inBackground(memory = MEMORY): Reading {
    return new Reading(undefined, undefined, NICENESS, memory);
  }

  /**
   * Asks for something of an open file, which stays open until the answer is there. `isWanted` says whether somebody waits
   * for it. Rejects with what `carryOut` does, and with a BudgetSpent where there was no answer in time.
   */
  ask<K extends OrderKind>(
    kind: K,
    file: OpenFile,
    asked: Orders[K]['asked'],
    isWanted: () => boolean = () => true,
    onProgress?: (progress: ReadProgress) => void,
  ): Promise<Orders[K]['answer']> {
    if (!isWanted()) return Promise.reject(new NoLongerAsked());
    const id = (this.last += 1);
    return new Promise<Orders[K]['answer']>((resolve, reject) => {
      const begun = this.late.now();
      let unwantedSince: number | undefined;
      const looking = setInterval(() => {
        const now = this.late.now();
        if (unwantedSince === undefined && !isWanted()) {
          unwantedSince = now;
          this.thread?.postMessage({ id, cancelled: true });
        }
        // Where it says how far it is, it takes as long as it takes.
        const isLate = (!onProgress && now - begun > this.late.answer) || (unwantedSince ?? now) < now - this.late.end;
        if (!isLate) return;
        const error = unwantedSince === undefined ? new BudgetSpent('it took too long') : new NoLongerAsked();
        this.pending.get(id)?.reject(error);
        void this.thread?.terminate();
      }, LOOK);
      const over = () => {
        clearInterval(looking);
        this.pending.delete(id);
        if (this.pending.size === 0) this.thread?.unref();
      };
      this.pending.set(id, {
        ...{ kind, file, asked, onProgress, hasEndedOne: false },
        resolve: (answer: Orders[K]['answer']) => (over(), resolve(answer)),
        reject: (error) => (over(), reject(error)),
      });
      this.send(id);
    });
  }

  /** Ends the thread, whatever it does; nobody gets an answer any more. */
  end(): void {
    for (const one of this.pending.values()) one.reject(new NoLongerAsked());
    void this.thread?.terminate();
  }

  private send(id: number): void {
    const { kind, file, asked } = this.pending.get(id)!;
    const thread = (this.thread ??= this.started());
    thread.ref();
    thread.postMessage({ id, kind, file, asked });
  }

  private started(): Worker {
    const thread = new Worker(this.program, {
      resourceLimits: { maxOldGenerationSizeMb: this.memory },
      workerData: { niceness: this.niceness },
    });
    thread.on('message', (message: FromThread) => {
      const waiting = this.pending.get(message.id);
      if ('progress' in message) waiting?.onProgress?.(message.progress);
      else if ('failure' in message) waiting?.reject(errorOf(message.failure));
      else waiting?.resolve(message.answer as never);
    });
    let failure: Error | undefined;
    thread.on('error', (error: Error) => (failure = error));
    thread.on('exit', () => {
      this.thread = undefined;
      for (const [id, one] of this.pending) {
        // Who was in two threads that ended may be what ends them.
        if (one.hasEndedOne) one.reject(new BudgetSpent(failure?.message ?? 'the thread that read it ended twice'));
        else {
          one.hasEndedOne = true;
          this.send(id);
        }
      }
    });
    return thread;
  }
}
