import { startBuild } from '@/server/builds';
import { currentContext } from '@/server/context';
import { readBody, respond } from '@/server/http';
import { StartBuildBody } from '@/server/requests/bodies';

/** Starts a build. */
export function POST(request: Request) {
  return respond(async () => startBuild(currentContext(), await readBody(request, StartBuildBody)), 202);
}
