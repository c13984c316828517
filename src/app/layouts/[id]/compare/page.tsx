import type { Metadata } from 'next';
import { currentContext } from '@/server/context';
import { getDocument, listRevisions } from '@/server/layouts';
import { CompareScreen } from '@/ui/compare/CompareScreen';
import { loadLayout } from '../load';

export const dynamic = 'force-dynamic';

export const metadata: Metadata = { title: 'Revisions compared · Loess' };

type Props = { params: Promise<{ id: string }>; searchParams: Promise<{ a?: string; b?: string }> };

export default async function ComparePage({ params, searchParams }: Props) {
  const view = await loadLayout((await params).id);
  const revisions = await listRevisions(currentContext(), view.id);
  const asked = await searchParams;
  // A revision that does not exist is not shown: the one in force, and the one ahead of it, are.
  const chosen = (text: string | undefined, usual: number) => {
    const number = Number(text);
    return revisions.some((one) => one.number === number) ? number : usual;
  };
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
