import { currentContext } from '@/server/context';
import { readPath, respond } from '@/server/http';
import { LayoutPath } from '@/server/requests/paths';
import { getLayout, putAway } from '@/server/layouts';

type Params = { params: Promise<object> };

/** The layout at its revision in force. */
export function GET(_: Request, { params }: Params) {
  return respond(async () => getLayout(currentContext(), (await readPath(params, LayoutPath)).id));
}

/** Puts the layout away; PUT brings it back. */
export function DELETE(_: Request, { params }: Params) {
  return respond(async () => putAway(currentContext(), (await readPath(params, LayoutPath)).id, true));
}

export function PUT(_: Request, { params }: Params) {
  return respond(async () => putAway(currentContext(), (await readPath(params, LayoutPath)).id, false));
}
