import { listFolder } from '@/server/browsing';
import { currentContext } from '@/server/context';
import { readQuery, respond } from '@/server/http';
import { VolumeQuery } from '@/server/requests/queries';

/** What is in a folder of a volume. */
export function GET(request: Request) {
  return respond(async () => listFolder(currentContext(), readQuery(request, VolumeQuery)));
}
