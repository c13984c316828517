import { currentContext } from '@/server/context';
import { readBody, respond } from '@/server/http';
import { listRevisions, saveRevision } from '@/server/layouts';
import { SaveRevisionBody } from '@/server/requests';

type Params = { params: Promise<{ id: string }> };

/** All revisions, the newest first. */
export function GET(_: Request, { params }: Params) {
  return respond(async () => listRevisions(currentContext(), (await params).id));
}

/** Adds a revision. */
export function POST(request: Request, { params }: Params) {
  return respond(async () => {
    const body = await readBody(request, SaveRevisionBody);
    return saveRevision(currentContext(), (await params).id, body);
  }, 201);
}
