'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Answers } from '@/core/advice/answers';
import { propose } from '@/core/advice/propose';
import { NOTHING_SAID, STARTS } from '@/core/advice/starts';
import type { MediumSpec } from '@/core/layout/document';
import { createLayout } from '../api';
import { Patterns } from '../column/Patterns';
import { fresh } from '../fresh';
import { Button, buttonClass } from '../kit/Button';
import { TextField } from '../kit/TextField';
import { TopBar } from '../kit/TopBar';
import { type Typed, withTyped } from './answering';
import { ProposedColumn } from './ProposedColumn';
import { useSaid } from './said';
import { Questions } from './Questions';

/** Random ids are made once, when the layout is: the proposal itself has fixed ones. */
const SHOWN = { signature: '6c6f6573', diskId: '6c6f6573-7300-4000-8000-000000000001', date: '2026-01-01T12:00:00' };

/** Instead of a proposal: what cannot be read. */
function Unread({ fields }: { readonly fields: readonly (readonly [field: string, text: string])[] }) {
  return (
    <section aria-label="Proposed layout" className="rounded-[6px] border border-line bg-card p-4">
      <h2 className="text-base font-semibold">No proposal yet</h2>
      <ul aria-live="polite" className="mt-1">
        {fields.map(([field, text]) => (
          <li key={field} className="text-stop">
            {field}: “{text}” cannot be read.
          </li>
        ))}
      </ul>
      <p className="mt-2 text-soft">
        Mend it, or press Esc in its field for what was there before. The other answers are kept.
      </p>
    </section>
  );
}

/** The questions of the Start on the left, what follows from them on the right. */
export function StartScreen({
  startKey,
  bench,
}: {
  startKey: string | undefined;
  bench: { readonly name: string; readonly medium: MediumSpec } | undefined;
}) {
  const router = useRouter();
  const start = STARTS.find((one) => one.key === startKey);
  const { said, say } = useSaid({
    answers: { ...(start?.answers ?? NOTHING_SAID), ...(bench && { medium: bench.medium }) },
    name: start?.name ?? (bench ? `For ${bench.name}` : 'New layout'),
  });
  const { answers, name } = said;
  const [refused, setRefused] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [typed, setTyped] = useState<Typed>({});
  const change = (patch: Partial<Answers>) => say({ name, answers: { ...answers, ...patch } });
  const { answers: shown, unread } = withTyped(answers, typed);
  // No proposal is made of an answer that cannot be read.
  const proposal = unread.length > 0 ? undefined : propose(shown, SHOWN, name);
  const make = async () => {
    setBusy(true);
    const made = await createLayout(
      propose(shown, fresh(), name.trim() || 'New layout').layout,
      `Proposed: ${name.trim()}`.slice(0, 200),
    );
    setBusy(false);
    if (made.ok) router.push(`/layouts/${made.value.id}`);
    else setRefused(made.error.sentence);
  };
  return (
    <div className="min-h-screen min-w-[960px]">
      <Patterns />
      <TopBar
        title="Start"
        detail="a few questions; every answer can be “don’t know”, and every line can be changed later"
      >
        <Link className={buttonClass()} href="/">
          Back to the shelf
        </Link>
        <Button look="primary" disabled={busy || !proposal} onClick={() => void make()}>
          Make this layout
        </Button>
      </TopBar>
      {refused && (
        <p role="alert" className="border-b border-line bg-selected px-5 py-1 text-stop">
          {refused}
        </p>
      )}
      <main
        id="main"
        tabIndex={-1}
        className="mx-auto grid max-w-[1280px] grid-cols-[540px_minmax(0,1fr)] gap-6 max-[1180px]:grid-cols-[510px_minmax(0,1fr)] max-[1180px]:gap-4 px-5 py-3"
      >
        <div>
          <div className="grid grid-cols-[22px_1fr] gap-x-2 border-b border-hair pb-2">
            <span />
            <div className="grid grid-cols-[64px_1fr] gap-2">
              <TextField label="Name" value={name} onCommit={(next) => say({ answers, name: next })} />
            </div>
          </div>
          <Questions
            answers={answers}
            shown={unread.length > 0 ? undefined : shown}
            change={change}
            typed={(field, draft) => setTyped((before) => ({ ...before, [field]: draft }))}
          />
        </div>
        {proposal ? <ProposedColumn proposal={proposal} /> : <Unread fields={unread} />}
      </main>
    </div>
  );
}
