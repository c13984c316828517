import type { Metadata } from 'next';
import type { Layout } from '@/core/layout/document';
import { currentContext } from '@/server/context';
import { getDocument, listRevisions } from '@/server/layouts';
import { orSentence } from '@/server/refusal';
import { pageQuery } from '@/server/requests/check';
import { ComparePageQuery } from '@/server/requests/queries';
import { CompareScreen } from '@/ui/compare/CompareScreen';
import { Refused } from '@/ui/survey/Refused';
import { loadLayout } from '../load';

export const dynamic = 'force-dynamic';

export const metadata: Metadata = { title: 'Revisions compared · Loess' };

type Props = { params: Promise<object>; searchParams: Promise<object> };

/** The documents of two revisions, or why one of them cannot be shown. */
const bothOf = (id: string, a: number, b: number): Promise<Layout[] | string> =>
  orSentence(Promise.all([a, b].map((number) => getDocument(currentContext(), id, number))));

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
  const documents = await bothOf(view.id, a, b);
  if (typeof documents === 'string') return <Refused sentence={documents} />;
  const [first, second] = documents;
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
