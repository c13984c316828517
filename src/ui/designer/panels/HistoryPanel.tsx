'use client';

import Link from 'next/link';
import { useEffect, useRef, useState } from 'react';
import type { RevisionView } from '@/contract/layouts';
import { listRevisions, nameRevision } from '../../api';
import { buttonClass } from '../../kit/Button';
import { When } from '../../kit/When';
import { type LongRows, useLongRows } from '../../kit/useLongRows';
import { useDesigner } from '../state/context';
import { PanelHead } from './panel';

/** Longest name of a revision, as the server takes it. */
const NAME_LIMIT = 60;

/** Height of a revision in pixels, before it is measured. */
const ROW = 47;

interface RowProps {
  readonly index: number;
  readonly measure: LongRows['measure'];
  readonly one: RevisionView;
  readonly onName: (name: string) => void;
}

function Revision({ index, measure, one, onName }: RowProps) {
  const { id, revision } = useDesigner((state) => state.view);
  const [draft, setDraft] = useState<string>();
  const finish = () => {
    if (draft !== undefined && draft.trim() !== (one.name ?? '')) onName(draft.trim());
    setDraft(undefined);
  };
  return (
    <li
      ref={measure}
      data-index={index}
      aria-current={one.inForce}
      className={`grid grid-cols-[34px_1fr_auto] gap-2 border-b border-hair px-1 py-1 ${one.inForce ? 'bg-selected' : ''}`}
    >
      <span className="text-right font-mono text-sm text-soft">{one.number}</span>
      <span className="min-w-0 break-words">
        {one.note}
        <input
          aria-label={`Name of revision ${one.number}`}
          value={draft ?? one.name ?? ''}
          placeholder="name it"
          maxLength={NAME_LIMIT}
          onChange={(event) => setDraft(event.target.value)}
          onBlur={finish}
          onKeyDown={(event) => {
            if (event.key === 'Enter') event.currentTarget.blur();
            if (event.key !== 'Escape') return;
            event.stopPropagation();
            setDraft(undefined);
          }}
          className="block w-full rounded-sm bg-transparent font-semibold placeholder:font-normal placeholder:text-soft"
        />
      </span>
      <span className="text-right text-sm text-soft">
        <span className="block">
          <When at={one.savedAt} />
        </span>
        {!one.inForce && (
          <Link
            className="hover:underline"
            href={`/layouts/${id}/compare?a=${one.number}&b=${revision}`}
            aria-label={`Compare revision ${one.number} with the one in force`}
          >
            compare
          </Link>
        )}
      </span>
    </li>
  );
}

interface ListProps {
  readonly list: readonly RevisionView[];
  readonly onName: (number: number, text: string) => Promise<void>;
}

function Revisions({ list, onName }: ListProps) {
  const body = useRef<HTMLOListElement>(null);
  const { rows, above, below, measure } = useLongRows(body, list.length, ROW);
  return (
    <ol ref={body} className="mt-2 border-t border-hair" style={{ paddingTop: above, paddingBottom: below }}>
      {rows.map(({ index }) => {
        const one = list[index]!;
        return (
          <Revision
            key={`${one.number} ${one.name ?? ''}`}
            index={index}
            measure={measure}
            one={one}
            onName={(text) => void onName(one.number, text)}
          />
        );
      })}
    </ol>
  );
}

/** All revisions of the layout: none is ever overwritten, and any of them can have a name. */
export function HistoryPanel() {
  const { id, revision } = useDesigner((state) => state.view);
  const [list, setList] = useState<readonly RevisionView[]>();
  const [error, setError] = useState<string>();
  const [named, setNamed] = useState(0);
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
  }, [id, revision, named]);
  const name = async (number: number, text: string) => {
    const answer = await nameRevision(id, number, text);
    setError(answer.ok ? undefined : answer.error.sentence);
    setNamed((n) => n + 1);
  };
  return (
    <>
      <PanelHead title="Revisions" detail="every finished change is one; undo and redo walk through them" />
      {error && <p className="mt-2 text-stop">{error}</p>}
      <p className="mt-2">
        <Link className={buttonClass()} href={`/layouts/${id}/compare`}>
          Compare any two
        </Link>
      </p>
      {list ? (
        <Revisions list={list} onName={name} />
      ) : (
        !error && <p className="mt-2 text-soft">They are being read.</p>
      )}
    </>
  );
}
