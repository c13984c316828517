import { currentContext } from '@/server/context';
import { respond } from '@/server/http';
import { getLayout, putAway } from '@/server/layouts';

type Params = { params: Promise<{ id: string }> };

/** The layout at its revision in force. */
export function GET(_: Request, { params }: Params) {
  return respond(async () => getLayout(currentContext(), (await params).id));
}

/** Puts the layout away; PUT brings it back. */
export function DELETE(_: Request, { params }: Params) {
  return respond(async () => putAway(currentContext(), (await params).id, true));
}

export function PUT(_: Request, { params }: Params) {
  return respond(async () => putAway(currentContext(), (await params).id, false));
}
