'use client';

import { useEffect } from 'react';
import { useStore } from 'zustand';
import { Button } from '../kit/Button';
import { dismissUpload, isSending, uploads } from './uploads';
import { SendingProgress } from './UploadProgress';

/** Height of one upload, in pixels. */
const ROW = 38;

/** Uploads that were begun on another page than the one at hand: where they stand, and what came of them. */
export function UploadBar() {
  const { all, shown } = useStore(uploads);
  useEffect(() => {
    const ask = (event: BeforeUnloadEvent) => {
      if (isSending()) event.preventDefault();
    };
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, []);
  const elsewhere = all.filter(({ id }) => !shown.has(id));
  const height = elsewhere.length * ROW;
  useEffect(() => {
    // The pages leave room for it, so that it covers nothing.
    document.documentElement.style.setProperty('--uploads', `${height}px`);
  }, [height]);
  if (elsewhere.length === 0) return null;
  return (
    <aside aria-label="Uploads" className="fixed inset-x-0 bottom-0 z-20 border-t border-edge bg-card px-4">
      {elsewhere.map(({ id, goal, sending, outcome }) => (
        <div key={id} className="flex items-center gap-4" style={{ height: ROW }}>
          <span className="max-w-[45%] truncate text-soft">{goal}</span>
          {sending && (
            <span className="min-w-0 flex-1">
              <SendingProgress sending={sending} />
            </span>
          )}
          {outcome && (
            <span role={outcome.good ? 'status' : 'alert'} className="flex min-w-0 flex-1 items-center gap-2">
              <span className={`flex-1 truncate ${outcome.good ? '' : 'text-stop'}`}>{outcome.sentence}</span>
              <Button look="quiet" onClick={() => dismissUpload(id)}>
                Understood
              </Button>
            </span>
          )}
        </div>
      ))}
    </aside>
  );
}
