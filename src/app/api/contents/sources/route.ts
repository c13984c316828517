import { listSources } from '@/server/browsing';
import { currentContext } from '@/server/context';
import { respond } from '@/server/http';

/** Volumes of images at hand whose files can be taken. */
export function GET() {
  return respond(() => listSources(currentContext()));
}
