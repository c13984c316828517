/**
 * Uploads that are under way in this window, whichever page shows them: leaving the page that
 * began one does not end it, and what came of it is told wherever one is then.
 */
import { createStore } from 'zustand/vanilla';
import type { Sending } from './upload';

export interface Upload {
  readonly id: string;
  /** What it is for, as “Data of Chart plotter”. */
  readonly goal: string;
  readonly sending: Sending | undefined;
  /** What came of it: set when it is over. */
  readonly outcome: { readonly good: boolean; readonly sentence: string } | undefined;
}

interface Uploads {
  readonly all: readonly Upload[];
  /** Ids of those that the page at hand shows itself. */
  readonly shown: ReadonlySet<string>;
}

export const uploads = createStore<Uploads>(() => ({ all: [], shown: new Set() }));

function change(id: string, next: Partial<Upload>): void {
  uploads.setState(({ all }) => ({ all: all.map((one) => (one.id === id ? { ...one, ...next } : one)) }));
}

function remove(id: string): void {
  uploads.setState(({ all }) => ({ all: all.filter((one) => one.id !== id) }));
}

/** Begins to follow an upload, which the page at hand shows itself at first; returns how to say where it stands and what came of it. */
export function follow(goal: string) {
  const id = crypto.randomUUID();
  uploads.setState(({ all, shown }) => ({
    all: [...all, { id, goal, sending: undefined, outcome: undefined }],
    shown: new Set([...shown, id]),
  }));
  return {
    id,
    progress: (sending: Sending | undefined) => change(id, { sending }),
    /** A page that shows the upload tells the outcome itself. */
    over: (good: boolean, sentence: string) => {
      if (uploads.getState().shown.has(id)) remove(id);
      else change(id, { sending: undefined, outcome: { good, sentence } });
    },
  };
}

/** Says that the page at hand shows an upload itself; returns how to end that. */
export function showsItself(id: string): () => void {
  uploads.setState(({ shown }) => ({ shown: new Set([...shown, id]) }));
  return () => uploads.setState(({ shown }) => ({ shown: new Set([...shown].filter((one) => one !== id)) }));
}

export const dismissUpload = remove;

/** Whether anything is being sent, so that closing the window would lose it. */
export const isSending = (): boolean => uploads.getState().all.some(({ outcome }) => outcome === undefined);
