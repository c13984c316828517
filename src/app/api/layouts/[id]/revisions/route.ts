import { currentContext } from '@/server/context';
import { readBody, readPath, respond } from '@/server/http';
import { listRevisions, saveRevision } from '@/server/layouts';
import { SaveRevisionBody } from '@/server/requests/bodies';
import { LayoutPath } from '@/server/requests/paths';

type Params = { params: Promise<object> };

/** All revisions, the newest first. */
export function GET(_: Request, { params }: Params) {
  return respond(async () => listRevisions(currentContext(), (await readPath(params, LayoutPath)).id));
}

/** Adds a revision. */
export function POST(request: Request, { params }: Params) {
  return respond(async () => {
    const { id } = await readPath(params, LayoutPath);
    return saveRevision(currentContext(), id, await readBody(request, SaveRevisionBody));
  }, 201);
}
