import type { Metadata } from 'next';
import { redirect } from 'next/navigation';
import { listBuilds } from '@/server/builds';
import { currentContext } from '@/server/context';
import { planBuild } from '@/server/plan';
import { BuildScreen } from '@/ui/build/BuildScreen';
import { loadLayout } from '../load';

export const dynamic = 'force-dynamic';

type Params = { params: Promise<object> };

export async function generateMetadata({ params }: Params): Promise<Metadata> {
  const { document } = await loadLayout(params);
  return { title: `Build ${document.name} · Loess` };
}

export default async function BuildPage({ params }: Params) {
  const view = await loadLayout(params);
  // What keeps something is shown before and after, and not built from nothing.
  if (view.document.found) redirect(`/layouts/${view.id}/change`);
  const context = currentContext();
  const plan = await planBuild(context, view.document);
  return <BuildScreen view={view} plan={plan} first={await listBuilds(context, view.id)} />;
}
