'use client';

import { useRouter } from 'next/navigation';
import { type ChangeEvent, useRef, useState } from 'react';
import { type Answer, createLayout } from '../api';
import type { LayoutView } from '@/contract/layouts';
import { Button } from '../kit/Button';
import { emptyLayout, type Fresh, type Start, STARTS } from './starts';

/** Longest file that is looked at for an import. */
const FILE_LIMIT = 1024 * 1024;

function fresh(): Fresh {
  const [n] = crypto.getRandomValues(new Uint32Array(1));
  return {
    signature: (n! || 1).toString(16).padStart(8, '0'),
    diskId: crypto.randomUUID(),
    date: new Date().toISOString().slice(0, 19),
  };
}

/** Ways to a new layout: empty on a medium, or from a document. */
export function NewLayout() {
  const router = useRouter();
  const file = useRef<HTMLInputElement>(null);
  const [refused, setRefused] = useState<string>();
  const go = (answer: Answer<LayoutView>) => {
    if (answer.ok) router.push(`/layouts/${answer.value.id}`);
    else setRefused(answer.error.sentence);
  };
  const begin = async (start: Start) => {
    go(await createLayout(emptyLayout(start, fresh()), `New: ${start.name}`));
  };
  const importFile = async (event: ChangeEvent<HTMLInputElement>) => {
    const [chosen] = event.target.files ?? [];
    event.target.value = '';
    if (!chosen) return;
    if (chosen.size > FILE_LIMIT) {
      setRefused(`“${chosen.name}” is longer than 1 MiB; that is no layout document.`);
      return;
    }
    try {
      const document: unknown = JSON.parse(await chosen.text());
      if (typeof document !== 'object' || document === null) throw new Error('no object');
      go(await createLayout(document, `Imported from ${chosen.name}`.slice(0, 200)));
    } catch {
      setRefused(`“${chosen.name}” is not JSON; a layout document was expected.`);
    }
  };
  return (
    <aside aria-label="New layout">
      <h2 className="mb-2 text-base font-semibold">New layout</h2>
      <p className="mb-2 text-soft">Say which medium it is for; nothing is written before you build.</p>
      <ul className="grid gap-2">
        {STARTS.map((start) => (
          <li key={start.name}>
            <button
              type="button"
              onClick={() => void begin(start)}
              className="w-full rounded-[6px] border border-line bg-card px-3 py-2 text-left hover:border-clay"
            >
              <b className="block font-semibold">{start.name}</b>
              <span className="text-soft">{start.text}</span>
            </button>
          </li>
        ))}
      </ul>
      <h2 className="mt-5 mb-2 text-base font-semibold">From a document</h2>
      <input
        ref={file}
        type="file"
        accept="application/json,.json"
        onChange={(event) => void importFile(event)}
        className="hidden"
        aria-label="Layout document"
      />
      <Button onClick={() => file.current?.click()}>Import a layout document</Button>
      {refused && (
        <p role="alert" className="mt-2 text-stop">
          {refused}
        </p>
      )}
    </aside>
  );
}
