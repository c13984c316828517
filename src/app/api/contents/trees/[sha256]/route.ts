import { currentContext } from '@/server/context';
import { readPath, respond } from '@/server/http';
import { TreePath } from '@/server/requests/paths';
import { getTree } from '@/server/store';

/** The entries of a stored tree. */
export function GET(_: Request, { params }: { params: Promise<object> }) {
  return respond(async () => getTree(currentContext(), (await readPath(params, TreePath)).sha256));
}
