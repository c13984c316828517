import { getBuild, removeBuild } from '@/server/builds';
import { currentContext } from '@/server/context';
import { readPath, respond } from '@/server/http';
import { BuildPath } from '@/server/requests/paths';

type Params = { params: Promise<object> };

/** Where a build stands. */
export function GET(_: Request, { params }: Params) {
  return respond(async () => getBuild(currentContext(), (await readPath(params, BuildPath)).id));
}

/** Removes a build that is over, with its image. */
export function DELETE(_: Request, { params }: Params) {
  return respond(async () => removeBuild(currentContext(), (await readPath(params, BuildPath)).id));
}
