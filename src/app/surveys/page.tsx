import type { Metadata } from 'next';
import { currentContext } from '@/server/context';
import { listLayouts } from '@/server/layouts';
import { orSentence } from '@/server/refusal';
import { pageQuery } from '@/server/requests/check';
import { SurveyPageQuery, type SurveyQuery } from '@/server/requests/queries';
import { surveyImage } from '@/server/surveys';
import { Refused } from '@/ui/survey/Refused';
import { SurveyScreen } from '@/ui/survey/SurveyScreen';

export const dynamic = 'force-dynamic';

export const metadata: Metadata = { title: 'Survey · Loess' };

type Query = { searchParams: Promise<object> };

const load = (asked: SurveyQuery) => orSentence(surveyImage(currentContext(), asked));

export default async function SurveyPage({ searchParams }: Query) {
  const asked = await pageQuery(searchParams, SurveyPageQuery);
  if (typeof asked === 'string') return <Refused sentence={asked} />;
  const view = await load(asked);
  if (typeof view === 'string') return <Refused sentence={view} />;
  const layouts = await listLayouts(currentContext());
  const key = `${view.of} ${view.survey.sectorSize}`;
  return <SurveyScreen key={key} view={view} layouts={layouts} layoutId={asked.layout} />;
}
