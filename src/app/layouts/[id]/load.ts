import { notFound, redirect } from 'next/navigation';
import type { LayoutView } from '@/contract/layouts';
import { currentContext } from '@/server/context';
import { readPath } from '@/server/http';
import { getLayout } from '@/server/layouts';
import { Refusal } from '@/server/refusal';
import { LayoutPath } from '@/server/requests/paths';

/** The layout of a page, or the page that says that there is none. */
export async function loadLayout(params: Promise<object>): Promise<LayoutView> {
  try {
    const { id } = await readPath(params, LayoutPath);
    return await getLayout(currentContext(), id);
  } catch (error) {
    if (error instanceof Refusal && error.status === 404) notFound();
    // The shelf says what is wrong with it and offers what can be done.
    if (error instanceof Refusal && error.code === 'document-damaged') redirect('/');
    throw error;
  }
}
