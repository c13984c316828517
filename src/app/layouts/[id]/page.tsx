import type { Metadata } from 'next';
import { Designer } from '@/ui/designer/Designer';
import { loadLayout } from './load';

export const dynamic = 'force-dynamic';

type Params = { params: Promise<{ id: string }> };

export async function generateMetadata({ params }: Params): Promise<Metadata> {
  const { document } = await loadLayout((await params).id);
  return { title: `${document.name} · Loess` };
}

export default async function DesignerPage({ params }: Params) {
  const view = await loadLayout((await params).id);
  return <Designer key={view.id} view={view} />;
}
