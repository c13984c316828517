import type { Metadata } from 'next';
import { currentContext } from '@/server/context';
import { proposal, type ProposalAsked } from '@/server/proposals';
import { Refusal } from '@/server/refusal';
import { pageQuery } from '@/server/requests/check';
import { ProposalQuery } from '@/server/requests/queries';
import { ProposalScreen } from '@/ui/change/ProposalScreen';
import { Refused } from '@/ui/survey/Refused';

export const dynamic = 'force-dynamic';

export const metadata: Metadata = { title: 'What would be written · Loess' };

async function load(asked: ProposalAsked) {
  try {
    return await proposal(currentContext(), asked);
  } catch (error) {
    if (error instanceof Refusal) return error.message;
    throw error;
  }
}

export default async function ProposalPage({ searchParams }: { searchParams: Promise<object> }) {
  const asked = await pageQuery(searchParams, ProposalQuery);
  if (typeof asked === 'string') return <Refused sentence={asked} />;
  const view = await load(asked);
  if (typeof view === 'string') return <Refused sentence={view} />;
  return <ProposalScreen key={`${view.of} ${view.does} ${view.only}`} view={view} />;
}
