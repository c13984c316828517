import type { Metadata } from 'next';
import { ContentsScreen } from '@/ui/contents/ContentsScreen';
import { pageQuery } from '@/server/requests/check';
import { SlotPageQuery } from '@/server/requests/queries';
import { loadLayout } from '../load';

export const dynamic = 'force-dynamic';

type Params = { params: Promise<object>; searchParams: Promise<object> };

export async function generateMetadata({ params }: Params): Promise<Metadata> {
  const { document } = await loadLayout(params);
  return { title: `Contents of ${document.name} · Loess` };
}

export default async function ContentsPage({ params, searchParams }: Params) {
  const view = await loadLayout(params);
  const asked = await pageQuery(searchParams, SlotPageQuery);
  const first = typeof asked === 'string' ? undefined : asked.slot;
  return <ContentsScreen view={view} first={first} />;
}
