import { currentContext } from '@/server/context';
import { readBody, respond } from '@/server/http';
import { createLayout } from '@/server/layouts';
import { CreateLayoutBody } from '@/server/requests/bodies';

/** Puts a new layout on the shelf. */
export function POST(request: Request) {
  return respond(async () => {
    const { document, note } = await readBody(request, CreateLayoutBody);
    return createLayout(currentContext(), document, note);
  }, 201);
}
