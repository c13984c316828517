'use client';

import { Button } from '../kit/Button';
import { dismissUpload, type Upload } from './uploads';
import { SendingProgress } from './UploadProgress';

/** Uploads, one below the other, at the foot of the window: where they stand, and what came of them. */
export function UploadList({ uploads, row }: { readonly uploads: readonly Upload[]; readonly row: number }) {
  return (
    <aside aria-label="Uploads" className="fixed inset-x-0 bottom-0 z-20 border-t border-edge bg-card px-4">
      {uploads.map(({ id, goal, sending, outcome }) => (
        <div key={id} className="flex items-center gap-4" style={{ height: row }}>
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
