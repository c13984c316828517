import { currentContext } from '@/server/context';
import { readQuery, respond } from '@/server/http';
import { SectorQuery } from '@/server/requests/queries';
import { openSector } from '@/server/surveys';

/** One sector of an image, decoded field by field. */
export function GET(request: Request) {
  return respond(async () => openSector(currentContext(), readQuery(request, SectorQuery)));
}
