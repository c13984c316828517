import type { Metadata } from 'next';
import { redirect } from 'next/navigation';
import { listBuilds } from '@/server/builds';
import { beforeAndAfter, candidatesFor } from '@/server/changes';
import { currentContext } from '@/server/context';
import { orSentence } from '@/server/refusal';
import { pageQuery } from '@/server/requests/check';
import { ChangePageQuery } from '@/server/requests/queries';
import { ChangeScreen } from '@/ui/change/ChangeScreen';
import { loadLayout } from '../load';

export const dynamic = 'force-dynamic';

type Page = { params: Promise<object>; searchParams: Promise<object> };

export async function generateMetadata({ params }: Page): Promise<Metadata> {
  const { document } = await loadLayout(params);
  return { title: `Before and after, ${document.name} · Loess` };
}

/** The change on an image, or why there is none to show. */
const shown = (layoutId: string, revision: number, of: string) =>
  orSentence(beforeAndAfter(currentContext(), { layoutId, of, revision }));

export default async function ChangePage({ params, searchParams }: Page) {
  const view = await loadLayout(params);
  if (!view.document.found) redirect(`/layouts/${view.id}/build`);
  const context = currentContext();
  const asked = await pageQuery(searchParams, ChangePageQuery);
  const candidates = await candidatesFor(context, view.document);
  const of = (typeof asked === 'string' ? undefined : asked.of) ?? candidates[0]?.of;
  const change = of === undefined ? undefined : await shown(view.id, view.revision, of);
  const first = await listBuilds(context, view.id);
  return (
    <ChangeScreen
      key={`${of} ${view.revision}`}
      view={view}
      change={change}
      candidates={candidates}
      of={of}
      first={first}
    />
  );
}
