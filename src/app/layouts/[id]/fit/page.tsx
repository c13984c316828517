import type { Metadata } from 'next';
import { FitScreen } from '@/ui/fit/FitScreen';
import { loadLayout } from '../load';

export const dynamic = 'force-dynamic';

type Params = { params: Promise<{ id: string }> };

export async function generateMetadata({ params }: Params): Promise<Metadata> {
  const { document } = await loadLayout((await params).id);
  return { title: `Fit of ${document.name} · Loess` };
}

export default async function FitPage({ params }: Params) {
  const view = await loadLayout((await params).id);
  return <FitScreen key={`${view.id} ${view.revision}`} view={view} />;
}
