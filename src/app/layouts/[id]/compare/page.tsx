import type { Metadata } from 'next';
import { currentContext } from '@/server/context';
import { getDocument, listRevisions } from '@/server/layouts';
import { pageQuery } from '@/server/requests/check';
import { ComparePageQuery } from '@/server/requests/queries';
import { CompareScreen } from '@/ui/compare/CompareScreen';
import { loadLayout } from '../load';

export const dynamic = 'force-dynamic';

export const metadata: Metadata = { title: 'Revisions compared · Loess' };

type Props = { params: Promise<object>; searchParams: Promise<object> };

export default async function ComparePage({ params, searchParams }: Props) {
  const view = await loadLayout(params);
  const revisions = await listRevisions(currentContext(), view.id);
  const query = await pageQuery(searchParams, ComparePageQuery);
  const asked = typeof query === 'string' ? {} : query;
  // A revision that does not exist is not shown: the one in force, and the one ahead of it, are.
  const chosen = (number: number | undefined, usual: number) =>
    revisions.find((one) => one.number === number)?.number ?? usual;
  const b = chosen(asked.b, view.revision);
  const a = chosen(asked.a, revisions.find((one) => one.number < b)?.number ?? b);
  const [first, second] = await Promise.all([a, b].map((number) => getDocument(currentContext(), view.id, number)));
  return (
    <CompareScreen
      key={`${view.id} ${a} ${b}`}
      id={view.id}
      name={view.document.name}
      revisions={revisions}
      a={{ number: a, document: first! }}
      b={{ number: b, document: second! }}
    />
  );
}
