import { startChange } from '@/server/changes';
import { currentContext } from '@/server/context';
import { readBody, respond } from '@/server/http';
import { StartChangeBody } from '@/server/requests/bodies';

/** Orders an image that is another one with what a layout changes. */
export function POST(request: Request) {
  return respond(async () => startChange(currentContext(), await readBody(request, StartChangeBody)), 202);
}
