'use client';

import { useEffect } from 'react';
import { useStore } from 'zustand';
import { Button } from '../kit/Button';
import { dismissUpload, isSending, uploads } from './uploads';
import { SendingProgress } from './UploadProgress';

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
  if (elsewhere.length === 0) return null;
  return (
    <aside
      aria-label="Uploads"
      className="fixed right-4 bottom-4 z-20 w-[460px] rounded-[6px] border border-edge bg-card px-3 py-1.5 shadow-md"
    >
      {elsewhere.map(({ id, goal, sending, outcome }) => (
        <div key={id}>
          <p className="text-soft">{goal}</p>
          {sending && <SendingProgress sending={sending} />}
          {outcome && (
            <p role={outcome.good ? 'status' : 'alert'} className="flex items-center gap-2 py-1">
              <span className={`flex-1 ${outcome.good ? '' : 'text-stop'}`}>{outcome.sentence}</span>
              <Button look="quiet" onClick={() => dismissUpload(id)}>
                Understood
              </Button>
            </p>
          )}
        </div>
      ))}
    </aside>
  );
}
