import { currentContext } from '@/server/context';
import { readBody, readPath, respond } from '@/server/http';
import { getDocument, nameRevision } from '@/server/layouts';
import { NameRevisionBody } from '@/server/requests/bodies';
import { RevisionPath } from '@/server/requests/paths';

type Params = { params: Promise<object> };

/** The document of one revision. */
export function GET(_: Request, { params }: Params) {
  return respond(async () => {
    const { id, number } = await readPath(params, RevisionPath);
    return { document: await getDocument(currentContext(), id, number) };
  });
}

/** Names a revision. */
export function PATCH(request: Request, { params }: Params) {
  return respond(async () => {
    const { id, number } = await readPath(params, RevisionPath);
    const { name } = await readBody(request, NameRevisionBody);
    await nameRevision(currentContext(), id, number, name);
  });
}
