import type { Metadata } from 'next';
import { StudyScreen } from '@/ui/study/StudyScreen';
import { pageQuery } from '@/server/requests/check';
import { SlotPageQuery } from '@/server/requests/queries';
import { loadLayout } from '../load';

export const dynamic = 'force-dynamic';

type Params = { params: Promise<object>; searchParams: Promise<object> };

export async function generateMetadata({ params }: Params): Promise<Metadata> {
  const { document } = await loadLayout(params);
  return { title: `Study of ${document.name} · Loess` };
}

export default async function StudyPage({ params, searchParams }: Params) {
  const view = await loadLayout(params);
  const asked = await pageQuery(searchParams, SlotPageQuery);
  const first = typeof asked === 'string' ? undefined : asked.slot;
  return <StudyScreen view={view} first={first} />;
}
