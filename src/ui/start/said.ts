'use client';

import { useEffect, useState } from 'react';
import type { Answers } from '@/core/advice/answers';
import { propose } from '@/core/advice/propose';

/** Everything that a person said at the Start. */
export interface Said {
  readonly answers: Answers;
  readonly name: string;
}

const KEY = 'loessSaid';
const PAGE = '/new';

/** Whether what a page was left with can still be understood: it may be of another version. */
function isUsable(value: unknown): value is Said {
  try {
    const { answers, name } = value as Said;
    if (typeof name !== 'string') return false;
    propose(
      answers,
      { signature: '00000001', diskId: '00000000-0000-4000-8000-000000000001', date: '2026-01-01T12:00:00' },
      name,
    );
    return true;
  } catch {
    return false;
  }
}

/** Answers that stay with this page of the browser's history: back from the designer they are there again, and after loading anew. */
export function useSaid(first: Said): { readonly said: Said; readonly say: (said: Said) => void } {
  const [said, setSaid] = useState(first);
  useEffect(() => {
    const kept = (window.history.state as Record<string, unknown> | null)?.[KEY];
    // What only the browser knows comes after the first painting, which the server knew.
    // eslint-disable-next-line react-hooks/set-state-in-effect
    if (kept !== undefined && isUsable(kept)) setSaid(kept);
  }, []);
  const say = (next: Said) => {
    setSaid(next);
    // A field may give what it holds when this page is being left: it belongs to no other page.
    if (window.location.pathname !== PAGE) return;
    window.history.replaceState({ ...(window.history.state as object | null), [KEY]: next }, '');
  };
  return { said, say };
}
