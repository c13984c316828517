import { currentContext } from '@/server/context';
import { readBody, respond } from '@/server/http';
import { RepackBody } from '@/server/requests/bodies';
import { startRepack } from '@/server/volume-room';

/** Orders an ext volume in another length, as an image of its own. */
export function POST(request: Request) {
  return respond(async () => startRepack(currentContext(), await readBody(request, RepackBody)), 202);
}
