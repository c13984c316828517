import { currentContext } from '@/server/context';
import { readBody, respond } from '@/server/http';
import { moveHead } from '@/server/layouts';
import { MoveBody } from '@/server/requests';

/** Moves the revision in force one step back or forward. */
export function POST(request: Request, { params }: { params: Promise<{ id: string }> }) {
  return respond(async () => {
    const body = await readBody(request, MoveBody);
    return moveHead(currentContext(), (await params).id, body);
  });
}
