import type { Metadata } from 'next';
import { Designer } from '@/ui/designer/Designer';
import { loadLayout } from './load';

export const dynamic = 'force-dynamic';

type Params = { params: Promise<object> };

export async function generateMetadata({ params }: Params): Promise<Metadata> {
  const { document } = await loadLayout(params);
  return { title: `${document.name} · Loess` };
}

export default async function DesignerPage({ params }: Params) {
  const view = await loadLayout(params);
  return <Designer key={view.id} view={view} />;
}
