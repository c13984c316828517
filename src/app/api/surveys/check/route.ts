import { currentContext } from '@/server/context';
import { readBody, readQuery, respond } from '@/server/http';
import { VolumeBody } from '@/server/requests/bodies';
import { PartitionQuery } from '@/server/requests/queries';
import { startVolumeCheck, stopVolumeCheck, volumeCheck } from '@/server/volume-checks';

/** Where the check of a volume stands, and what it found. */
export function GET(request: Request) {
  return respond(async () => volumeCheck(currentContext(), readQuery(request, PartitionQuery)));
}

/** Starts the check of a volume. */
export function POST(request: Request) {
  return respond(async () => startVolumeCheck(currentContext(), await readBody(request, VolumeBody)), 202);
}

/** Stops it. */
export function DELETE(request: Request) {
  return respond(async () => stopVolumeCheck(currentContext(), readQuery(request, PartitionQuery)));
}
