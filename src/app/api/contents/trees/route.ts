import { currentContext } from '@/server/context';
import { readBodyBy, respond } from '@/server/http';
import { TREE_CHANGES } from '@/server/requests/bodies';
import { changeTree } from '@/server/store';

/** Changes a tree of files; answers with the new one. */
export function POST(request: Request) {
  return respond(async () => {
    const { into, ...change } = await readBodyBy(request, 'do', TREE_CHANGES);
    return changeTree(currentContext(), into, change);
  }, 201);
}
