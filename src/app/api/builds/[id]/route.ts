import { getBuild, removeBuild } from '@/server/builds';
import { currentContext } from '@/server/context';
import { respond } from '@/server/http';

type Params = { params: Promise<{ id: string }> };

/** Where a build stands. */
export function GET(_: Request, { params }: Params) {
  return respond(async () => getBuild(currentContext(), (await params).id));
}

/** Removes a build that is over, with its image. */
export function DELETE(_: Request, { params }: Params) {
  return respond(async () => removeBuild(currentContext(), (await params).id));
}
