import { cancelDigest, startDigest } from '@/server/builds';
import { currentContext } from '@/server/context';
import { readPath, respond } from '@/server/http';
import { BuildPath } from '@/server/requests/paths';

type Params = { params: Promise<object> };

/** Starts the SHA-256 of the whole image. */
export function POST(_: Request, { params }: Params) {
  return respond(async () => startDigest(currentContext(), (await readPath(params, BuildPath)).id), 202);
}

/** Asks the checksum to stop. */
export function DELETE(_: Request, { params }: Params) {
  return respond(async () => cancelDigest(currentContext(), (await readPath(params, BuildPath)).id), 202);
}
