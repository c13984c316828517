'use client';

import { MIB } from '@/core/quantity/units';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { type ChangeEvent, useRef, useState } from 'react';
import { emptyLayout, STARTS } from '@/core/advice/starts';
import { type Answer, contentUrl, createLayout } from '../api';
import type { LayoutView } from '@/contract/layouts';
import { fresh } from '../fresh';
import { Button, buttonClass } from '../kit/Button';
import { send, type Sending } from '../upload/upload';
import { SendingProgress } from '../upload/UploadProgress';

/** Longest file that is looked at for an import. */
const FILE_LIMIT = MIB;

/** Whether a file is a document by itself, by how it begins, and not an archive with one. */
async function isDocument(file: File): Promise<boolean> {
  return file.name.endsWith('.json') || /^[\s\ufeff]*[{/]/.test(await file.slice(0, 1024).text());
}

/** Ways to a new layout: by questions, with or without answers to begin with; empty; or from a document. */
export function NewLayout() {
  const router = useRouter();
  const file = useRef<HTMLInputElement>(null);
  const [refused, setRefused] = useState<string>();
  const [sending, setSending] = useState<Sending>();
  const go = (answer: Answer<LayoutView>) => {
    if (answer.ok) router.push(`/layouts/${answer.value.id}`);
    else setRefused(answer.error.sentence);
  };
  const importFile = async (event: ChangeEvent<HTMLInputElement>) => {
    const [chosen] = event.target.files ?? [];
    event.target.value = '';
    setRefused(undefined);
    if (!chosen) return;
    if (!(await isDocument(chosen))) {
      const url = contentUrl('layout', { name: chosen.name });
      return go(await send<LayoutView>(url, chosen, chosen.name, setSending));
    }
    if (chosen.size > FILE_LIMIT) {
      setRefused(`“${chosen.name}” is longer than 1 MiB; that is no layout document.`);
      return;
    }
    const [{ errorText, readDocument }, text] = await Promise.all([import('@/core/layout/written'), chosen.text()]);
    const read = readDocument(text);
    if (read.ok) return go(await createLayout(read.value.layout, `Imported from ${chosen.name}`.slice(0, 200)));
    const [first, ...more] = read.error.map(errorText);
    setRefused(`“${chosen.name}” is no valid layout: ${first}.${more.length > 0 ? ` And ${more.length} more.` : ''}`);
  };
  return (
    <aside aria-label="New layout">
      <h2 className="mb-2 text-base font-semibold">New layout</h2>
      <p className="mb-2 flex flex-wrap gap-1.5">
        <Link className={buttonClass('primary')} href="/new">
          Answer a few questions
        </Link>
        <Link className={buttonClass()} href="/bench">
          For a medium at hand
        </Link>
      </p>
      <p className="mb-2 text-soft">Or begin with answers that fit; nothing is written before you build.</p>
      <ul className="grid gap-1.5">
        {STARTS.map((start) => (
          <li key={start.key}>
            <Link
              href={`/new?start=${start.key}`}
              className="block rounded-[6px] border border-line bg-card px-3 py-1.5 hover:border-clay"
            >
              <b className="block font-semibold">{start.name}</b>
              <span className="text-soft">{start.text}</span>
            </Link>
          </li>
        ))}
      </ul>
      <h2 className="mt-4 mb-2 text-base font-semibold">Without questions</h2>
      <input
        ref={file}
        type="file"
        accept="application/json,.json,.tar,.gz,.tgz,.zst,.xz,.zip"
        onChange={(event) => void importFile(event)}
        className="hidden"
        aria-label="Layout document"
      />
      <p className="flex flex-wrap gap-1.5">
        <Button onClick={() => void createLayout(emptyLayout(fresh()), 'New: empty').then(go)}>An empty layout</Button>
        <Button onClick={() => file.current?.click()}>Import a layout document</Button>
      </p>
      {sending && <SendingProgress sending={sending} />}
      {refused ? (
        <p role="alert" ref={(told) => told?.scrollIntoView({ block: 'nearest' })} className="mt-2 text-stop">
          {refused}
        </p>
      ) : (
        <p className="mt-1.5 text-soft">
          A document that names files beside it comes in one archive together with them.
        </p>
      )}
    </aside>
  );
}
