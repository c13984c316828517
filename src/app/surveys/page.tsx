import type { Metadata } from 'next';
import { currentContext } from '@/server/context';
import { listLayouts } from '@/server/layouts';
import { Refusal } from '@/server/refusal';
import { surveyImage } from '@/server/surveys';
import { Refused } from '@/ui/survey/Refused';
import { SurveyScreen } from '@/ui/survey/SurveyScreen';

export const dynamic = 'force-dynamic';

export const metadata: Metadata = { title: 'Survey · Loess' };

type Query = { searchParams: Promise<{ of?: string; sectorSize?: string; layout?: string }> };

async function load({ of = '', sectorSize }: { of?: string; sectorSize?: string }) {
  try {
    const size = sectorSize === '512' ? 512 : sectorSize === '4096' ? 4096 : undefined;
    return await surveyImage(currentContext(), { of, sectorSize: size });
  } catch (error) {
    if (error instanceof Refusal) return error.message;
    throw error;
  }
}

export default async function SurveyPage({ searchParams }: Query) {
  const asked = await searchParams;
  const view = await load(asked);
  if (typeof view === 'string') return <Refused sentence={view} />;
  const layouts = await listLayouts(currentContext());
  const key = `${view.of} ${view.survey.sectorSize}`;
  return <SurveyScreen key={key} view={view} layouts={layouts} layoutId={asked.layout} />;
}
