import { currentContext } from '@/server/context';
import { readQuery, respond } from '@/server/http';
import { PartitionQuery } from '@/server/requests/queries';
import { volumeRoom } from '@/server/volume-room';

/** Where the room of a volume is, and how small it can be. */
export function GET(request: Request) {
  return respond(async () => volumeRoom(currentContext(), readQuery(request, PartitionQuery)));
}
