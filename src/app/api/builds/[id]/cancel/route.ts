import { cancelBuild } from '@/server/builds';
import { currentContext } from '@/server/context';
import { respond } from '@/server/http';

/** Asks a build to stop. */
export function POST(_: Request, { params }: { params: Promise<{ id: string }> }) {
  return respond(async () => cancelBuild(currentContext(), (await params).id), 202);
}
