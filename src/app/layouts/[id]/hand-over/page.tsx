import type { Metadata } from 'next';
import { listBuilds } from '@/server/builds';
import { currentContext } from '@/server/context';
import { shelf } from '@/server/layouts';
import { pageQuery } from '@/server/requests/check';
import { HandOverPageQuery } from '@/server/requests/queries';
import { HandOverScreen } from '@/ui/handover/HandOverScreen';
import { loadLayout } from '../load';

export const dynamic = 'force-dynamic';

type Params = { params: Promise<object>; searchParams: Promise<object> };

export async function generateMetadata({ params }: Params): Promise<Metadata> {
  const { document } = await loadLayout(params);
  return { title: `Hand-over of ${document.name} · Loess` };
}

export default async function HandOverPage({ params, searchParams }: Params) {
  const view = await loadLayout(params);
  const asked = await pageQuery(searchParams, HandOverPageQuery);
  const { with: others = '', show } = typeof asked === 'string' ? {} : asked;
  const { layouts } = await shelf(currentContext());
  const ids = others.split(',');
  return (
    <HandOverScreen
      view={view}
      shelf={layouts.filter(({ id }) => id !== view.id).map(({ id, document }) => ({ id, name: document.name }))}
      others={layouts.filter(({ id }) => id !== view.id && ids.includes(id))}
      show={show}
      builds={await listBuilds(currentContext(), view.id)}
    />
  );
}
