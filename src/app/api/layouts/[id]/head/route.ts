import { currentContext } from '@/server/context';
import { readBody, readPath, respond } from '@/server/http';
import { moveHead } from '@/server/layouts';
import { MoveBody } from '@/server/requests/bodies';
import { LayoutPath } from '@/server/requests/paths';

/** Moves the revision in force one step back or forward. */
export function POST(request: Request, { params }: { params: Promise<object> }) {
  return respond(async () => {
    const { id } = await readPath(params, LayoutPath);
    return moveHead(currentContext(), id, await readBody(request, MoveBody));
  });
}
