import { currentContext } from '@/server/context';
import { readPath, respond } from '@/server/http';
import { BlobPath } from '@/server/requests/paths';
import { getBlob } from '@/server/store';

/** What a stored file is. */
export function GET(_: Request, { params }: { params: Promise<object> }) {
  return respond(async () => getBlob(currentContext(), (await readPath(params, BlobPath)).sha256));
}
