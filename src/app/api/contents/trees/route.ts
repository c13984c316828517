import type { TreeChange } from '@/contract/contents';
import { currentContext } from '@/server/context';
import { readBody, respond } from '@/server/http';
import { ChangeTreeBody } from '@/server/requests';
import { changeTree } from '@/server/store';

/** Changes a tree of files; answers with the new one. */
export function POST(request: Request) {
  return respond(async () => {
    const { into, ...change } = await readBody(request, ChangeTreeBody);
    return changeTree(currentContext(), into, { to: '', attributes: [], ...change } as TreeChange);
  }, 201);
}
