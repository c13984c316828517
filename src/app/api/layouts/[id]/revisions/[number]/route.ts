import { currentContext } from '@/server/context';
import { readBody, respond } from '@/server/http';
import { getDocument, nameRevision } from '@/server/layouts';
import { Refusal } from '@/server/refusal';
import { NameRevisionBody } from '@/server/requests';

type Params = { params: Promise<{ id: string; number: string }> };

function numberOf(text: string): number {
  if (!/^[1-9]\d{0,9}$/.test(text)) throw new Refusal(400, 'revision-unknown', 'A revision is a number.', 'number');
  return Number(text);
}

/** The document of one revision. */
export function GET(_: Request, { params }: Params) {
  return respond(async () => {
    const { id, number } = await params;
    return { document: await getDocument(currentContext(), id, numberOf(number)) };
  });
}

/** Names a revision. */
export function PATCH(request: Request, { params }: Params) {
  return respond(async () => {
    const { id, number } = await params;
    const { name } = await readBody(request, NameRevisionBody);
    await nameRevision(currentContext(), id, numberOf(number), name);
  });
}
