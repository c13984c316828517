import { cancelDigest, startDigest } from '@/server/builds';
import { currentContext } from '@/server/context';
import { respond } from '@/server/http';

type Params = { params: Promise<{ id: string }> };

/** Starts the SHA-256 of the whole image. */
export function POST(_: Request, { params }: Params) {
  return respond(async () => startDigest(currentContext(), (await params).id), 202);
}

/** Asks the checksum to stop. */
export function DELETE(_: Request, { params }: Params) {
  return respond(async () => cancelDigest(currentContext(), (await params).id), 202);
}
