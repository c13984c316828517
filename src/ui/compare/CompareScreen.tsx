'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { type ReactNode, useState } from 'react';
import type { RevisionView } from '@/contract/layouts';
import { type Difference, differences } from '@/core/advice/differences';
import type { Layout } from '@/core/layout/document';
import { mediumText } from '@/core/layout/medium-spec';
import { TABLE_NAMES } from '@/core/layout/vocabulary';
import { place } from '@/core/placement/place';
import type { Stratum } from '@/core/placement/placement';
import { counted, grouped, inBinary } from '@/core/quantity/units';
import { Correlated } from '../column/Correlated';
import type { Scale } from '../column/geometry';
import { Patterns } from '../column/Patterns';
import { ScaleChoice } from '../column/ScaleChoice';
import { buttonClass } from '../kit/Button';
import { Select } from '../kit/Select';
import { TopBar } from '../kit/TopBar';

/** A revision with its document. */
export interface Compared {
  readonly number: number;
  readonly document: Layout;
}

function revisionText({ number, name, note }: RevisionView): string {
  return `${number}: ${name ?? note}`.slice(0, 70);
}

function stratumLabel(stratum: Stratum, sectorSize: number): ReactNode {
  if (stratum.kind !== 'slot') return null;
  return (
    <>
      <span className="block truncate font-semibold">{stratum.placed.slot.name}</span>
      <span className="block truncate font-mono text-sm text-soft">
        {inBinary(stratum.sectors * sectorSize)} at {grouped(stratum.start)}
      </span>
    </>
  );
}

const KINDS: Readonly<Record<Difference['kind'], string>> = { added: 'new', removed: 'gone', changed: 'changed' };

/** Two revisions of a layout as columns, and what differs in words. */
export function CompareScreen({
  id,
  name,
  revisions,
  a,
  b,
}: {
  id: string;
  name: string;
  revisions: readonly RevisionView[];
  a: Compared;
  b: Compared;
}) {
  const router = useRouter();
  const [scale, setScale] = useState<Scale>('legible');
  const placements = [place(a.document), place(b.document)] as const;
  const found = differences(...placements);
  const options = revisions.map((one) => ({ value: String(one.number), text: revisionText(one) }));
  const go = (first: string, second: string) => router.push(`/layouts/${id}/compare?a=${first}&b=${second}`);
  const head = (label: string, one: Compared, choose: (value: string) => void) => (
    <>
      <span className="block text-xs text-soft">{label}</span>
      <Select label={label} value={String(one.number)} options={options} onChange={choose} />
      <p className="truncate text-sm text-soft">
        {TABLE_NAMES[one.document.table.kind]} on {mediumText(one.document.medium)}
      </p>
    </>
  );
  return (
    <div className="flex min-h-screen min-w-[960px] flex-col">
      <Patterns />
      <TopBar title={name} detail="two revisions side by side">
        <Link className={buttonClass()} href={`/layouts/${id}`}>
          Back to the designer
        </Link>
      </TopBar>
      <main id="main" tabIndex={-1} className="grid grid-cols-[680px_1fr] gap-6 px-5 py-4">
        <div>
          <div className="mb-3">
            <ScaleChoice value={scale} onChange={setScale} />
          </div>
          <Correlated
            label="Both revisions, joined slot by slot"
            columns={[
              {
                key: 'a',
                placement: placements[0],
                head: head('Before', a, (value) => go(value, String(b.number))),
                label: (stratum) => stratumLabel(stratum, placements[0].sectorSize),
              },
              {
                key: 'b',
                placement: placements[1],
                head: head('After', b, (value) => go(String(a.number), value)),
                label: (stratum) => stratumLabel(stratum, placements[1].sectorSize),
              },
            ]}
            scale={scale}
            height={560}
            width={340}
          />
        </div>
        <section aria-label="What differs">
          <h2 className="text-base font-semibold">What differs</h2>
          <p className="text-soft">
            {found.length === 0
              ? 'Nothing: both place every slot on the same sectors and say the same of it.'
              : `${counted(found.length, 'thing')}, from revision ${a.number} to ${b.number}.`}
          </p>
          <ul className="mt-2">
            {found.map((one, i) => (
              <li key={i} className="grid grid-cols-[64px_120px_1fr] gap-2 border-b border-hair py-1.5">
                <span className="text-soft">{KINDS[one.kind]}</span>
                <b className="truncate font-semibold">{one.name}</b>
                <span>
                  {one.what.map((what, j) => (
                    <span key={j} className="block break-words">
                      {what}
                    </span>
                  ))}
                </span>
              </li>
            ))}
          </ul>
        </section>
      </main>
    </div>
  );
}
