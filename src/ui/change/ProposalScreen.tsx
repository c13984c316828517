'use client';

import Link from 'next/link';
import type { ProposalView } from '@/contract/changes';
import type { Does } from '@/core/change/proposal';
import { grouped, inBoth } from '@/core/quantity/units';
import { proposalUrl, startProposal, surveyUrl } from '../api';
import { buttonClass } from '../kit/Button';
import { TopBar } from '../kit/TopBar';
import { Order } from './Order';
import { Left, Written } from './Written';

const TITLES: Readonly<Record<Does, string>> = {
  repair: 'what would mend it',
  cut: 'cut behind its last partition',
  clear: 'cleared of everything that is recognised',
};
const HEADS: Readonly<Record<Does, string>> = {
  repair: 'What is mended',
  cut: 'What goes',
  clear: 'What it was',
};

/** What would be done to an image by itself, and the new image that comes of it. */
export function ProposalScreen({ view }: { view: ProposalView }) {
  const { of, name, does, only, sectorSize, size, becomes, words, onRequest, ranges, left, mark } = view;
  const isNothing = ranges.length === 0 && becomes === size;
  return (
    <div className="flex h-(--page) min-w-[960px] flex-col overflow-hidden">
      <TopBar title={name} detail={TITLES[does]}>
        <Link className={buttonClass()} href={surveyUrl(of)}>
          Back to the survey
        </Link>
      </TopBar>
      <main id="main" tabIndex={-1} className="min-h-0 flex-1 overflow-y-auto px-5 py-4">
        {view.refused.length > 0 && (
          <ul role="alert" className="mb-3">
            {view.refused.map((one) => (
              <li key={one} className="text-stop">
                {one}
              </li>
            ))}
          </ul>
        )}
        {words.length > 0 && (
          <>
            <h2 className="text-base font-semibold">{HEADS[does]}</h2>
            <ul className="list-disc pl-5">
              {words.map((one) => (
                <li key={one}>{one}</li>
              ))}
            </ul>
          </>
        )}
        {onRequest.length > 0 && (
          <nav aria-label="Mended only where it is asked for" className="mt-2 flex flex-wrap items-center gap-1.5">
            <span className="text-soft">Only where it is asked for:</span>
            {onRequest.map(({ id, label }) => (
              <Link key={id} className={buttonClass()} href={proposalUrl({ of, sectorSize, does: 'repair', only: id })}>
                {label}
              </Link>
            ))}
          </nav>
        )}
        {becomes !== size && (
          <p className="mt-2">
            The new image has <b className="font-semibold">{inBoth(becomes)}</b>, {grouped(becomes)} bytes; the old one
            has {inBoth(size)}.
          </p>
        )}
        <h2 className="mt-4 text-base font-semibold">What will be written</h2>
        <Written ranges={ranges} />
        <h2 className="mt-4 text-base font-semibold">What would be found afterwards</h2>
        <Left left={left} />
        <Order
          name={name}
          obstacle={isNothing ? 'Nothing would change.' : undefined}
          order={() => startProposal({ of, does, sectorSize, mark, ...(only !== null && { only }) })}
          first={[]}
          slots={[]}
        />
      </main>
    </div>
  );
}
