import { currentContext } from '@/server/context';
import { readPath, respond } from '@/server/http';
import { goOn } from '@/server/layouts';
import { LayoutPath } from '@/server/requests/paths';

/** Goes on from the newest revision that can be read. */
export function POST(_: Request, { params }: { params: Promise<object> }) {
  return respond(async () => goOn(currentContext(), (await readPath(params, LayoutPath)).id));
}
