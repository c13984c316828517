import type { Metadata } from 'next';
import { currentContext } from '@/server/context';
import { proposal, type ProposalAsked } from '@/server/proposals';
import { orSentence } from '@/server/refusal';
import { pageQuery } from '@/server/requests/check';
import { ProposalQuery } from '@/server/requests/queries';
import { ProposalScreen } from '@/ui/change/ProposalScreen';
import { Refused } from '@/ui/survey/Refused';

export const dynamic = 'force-dynamic';

export const metadata: Metadata = { title: 'What would be written · Loess' };

const load = (asked: ProposalAsked) => orSentence(proposal(currentContext(), asked));

export default async function ProposalPage({ searchParams }: { searchParams: Promise<object> }) {
  const asked = await pageQuery(searchParams, ProposalQuery);
  if (typeof asked === 'string') return <Refused sentence={asked} />;
  const view = await load(asked);
  if (typeof view === 'string') return <Refused sentence={view} />;
  return <ProposalScreen key={`${view.of} ${view.does} ${view.only}`} view={view} />;
}
