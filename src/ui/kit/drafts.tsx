'use client';

import { createContext, type ReactNode, useContext, useEffect, useState } from 'react';

/** Where texts belong that are typed and not taken yet, and how to say that one was left so. */
interface Place {
  readonly name: string;
  /** What the fields are about, for people. */
  readonly of: string;
  readonly tell: (sentence: string) => void;
}

const PlaceContext = createContext<Place | undefined>(undefined);

/** The fields below keep what is typed into them and cannot be taken, until it is mended or dropped. */
export function DraftPlace({ name, of, tell, children }: Place & { readonly children: ReactNode }) {
  const [told] = useState(() => tell);
  return <PlaceContext value={{ name, of, tell: told }}>{children}</PlaceContext>;
}

const keyOf = (place: string, field: string) => `loess:draft:${place}:${field}`;

function readDraft(key: string): string | undefined {
  try {
    return sessionStorage.getItem(key) ?? undefined;
  } catch {
    return undefined;
  }
}

function storeDraft(key: string, draft: string | undefined): void {
  try {
    if (draft === undefined) sessionStorage.removeItem(key);
    else sessionStorage.setItem(key, draft);
  } catch {
    // A browser without storage keeps it while the field is there.
  }
}

export interface Draft {
  /** What is typed and not taken; undefined where the field shows its value. */
  readonly draft: string | undefined;
  readonly setDraft: (draft: string | undefined) => void;
  /** Keeps what is typed for the time when the field comes back; undefined drops it. */
  readonly keep: (draft: string | undefined) => void;
  /** Says that what is typed was not taken, and stays in its field. */
  readonly tellLeft: (draft: string) => void;
}

/** What is typed into a field. Where a place is given, what cannot be taken comes back with the field. */
export function useDraft(field: string): Draft {
  const place = useContext(PlaceContext);
  const key = place && keyOf(place.name, field);
  const [draft, setDraft] = useState<string>();
  useEffect(() => {
    const kept = key === undefined ? undefined : readDraft(key);
    // What only the browser knows comes after the first painting, which the server knew.
    // eslint-disable-next-line react-hooks/set-state-in-effect
    if (kept !== undefined) setDraft(kept);
  }, [key]);
  return {
    draft,
    setDraft,
    keep: (next) => key !== undefined && storeDraft(key, next),
    tellLeft: (left) =>
      place?.tell(
        `“${left.slice(0, 60)}” in the field “${field}” of ${place.of} cannot be read and was not taken; it stays there.`,
      ),
  };
}
