import type { Metadata } from 'next';
import { ContentsScreen } from '@/ui/contents/ContentsScreen';
import { loadLayout } from '../load';

export const dynamic = 'force-dynamic';

type Params = { params: Promise<{ id: string }>; searchParams: Promise<{ slot?: string | string[] }> };

export async function generateMetadata({ params }: Params): Promise<Metadata> {
  const { document } = await loadLayout((await params).id);
  return { title: `Contents of ${document.name} · Loess` };
}

export default async function ContentsPage({ params, searchParams }: Params) {
  const view = await loadLayout((await params).id);
  const { slot } = await searchParams;
  return <ContentsScreen view={view} first={typeof slot === 'string' ? slot : undefined} />;
}
