import { currentContext } from '@/server/context';
import { respond } from '@/server/http';
import { getBlob } from '@/server/store';

/** What a stored file is. */
export function GET(_: Request, { params }: { params: Promise<{ sha256: string }> }) {
  return respond(async () => getBlob(currentContext(), (await params).sha256));
}
