import { keepInLayout } from '@/server/changes';
import { currentContext } from '@/server/context';
import { readBody, respond } from '@/server/http';
import { KeepBody } from '@/server/requests/bodies';

/** Makes a layout that keeps everything that an image holds. */
export function POST(request: Request) {
  return respond(async () => keepInLayout(currentContext(), await readBody(request, KeepBody)), 201);
}
