'use client';

import { useEffect, useState } from 'react';
import type { RevisionView } from '@/contract/layouts';
import { listRevisions } from '../api';
import { useDesigner } from './context';
import { PanelHead } from './panel';

/** All revisions of the layout: none is ever overwritten. */
export function HistoryPanel() {
  const { id, revision } = useDesigner((state) => state.view);
  const [list, setList] = useState<readonly RevisionView[]>([]);
  const [error, setError] = useState<string>();
  useEffect(() => {
    let wanted = true;
    void listRevisions(id).then((answer) => {
      if (!wanted) return;
      if (answer.ok) setList(answer.value);
      else setError(answer.error.sentence);
    });
    return () => {
      wanted = false;
    };
  }, [id, revision]);
  return (
    <>
      <PanelHead title="Revisions" detail="every finished change is one; undo and redo walk through them" />
      {error && <p className="mt-2 text-stop">{error}</p>}
      <ol className="mt-2 border-t border-hair">
        {list.map((one) => (
          <li
            key={one.number}
            aria-current={one.inForce}
            className={`grid grid-cols-[34px_1fr_auto] gap-2 border-b border-hair px-1 py-1 ${one.inForce ? 'bg-selected' : ''}`}
          >
            <span className="text-right font-mono text-sm text-soft">{one.number}</span>
            <span className="min-w-0 break-words">{one.note}</span>
            <time className="text-sm text-soft" dateTime={one.savedAt}>
              {new Date(one.savedAt).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}
            </time>
          </li>
        ))}
      </ol>
    </>
  );
}
