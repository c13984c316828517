import { cancelBuild } from '@/server/builds';
import { currentContext } from '@/server/context';
import { readPath, respond } from '@/server/http';
import { BuildPath } from '@/server/requests/paths';

/** Asks a build to stop. */
export function POST(_: Request, { params }: { params: Promise<object> }) {
  return respond(async () => cancelBuild(currentContext(), (await readPath(params, BuildPath)).id), 202);
}
