import type { Metadata } from 'next';
import { FitScreen } from '@/ui/fit/FitScreen';
import { loadLayout } from '../load';

export const dynamic = 'force-dynamic';

type Params = { params: Promise<object> };

export async function generateMetadata({ params }: Params): Promise<Metadata> {
  const { document } = await loadLayout(params);
  return { title: `Fit of ${document.name} · Loess` };
}

export default async function FitPage({ params }: Params) {
  const view = await loadLayout(params);
  return <FitScreen key={`${view.id} ${view.revision}`} view={view} />;
}
