import { notFound } from 'next/navigation';
import type { LayoutView } from '@/contract/layouts';
import { currentContext } from '@/server/context';
import { getLayout } from '@/server/layouts';
import { Refusal } from '@/server/refusal';

/** The layout of a page, or the page that says that there is none. */
export async function loadLayout(id: string): Promise<LayoutView> {
  try {
    return await getLayout(currentContext(), id);
  } catch (error) {
    if (error instanceof Refusal && error.status === 404) notFound();
    throw error;
  }
}
