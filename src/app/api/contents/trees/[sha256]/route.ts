import { currentContext } from '@/server/context';
import { respond } from '@/server/http';
import { getTree } from '@/server/store';

/** The entries of a stored tree. */
export function GET(_: Request, { params }: { params: Promise<{ sha256: string }> }) {
  return respond(async () => getTree(currentContext(), (await params).sha256));
}
