import { currentContext } from '@/server/context';
import { checkState } from '@/server/holdings';
import { respond } from '@/server/http';

/** Where the check of the data folder stands. */
export function GET() {
  return respond(() => Promise.resolve(checkState(currentContext())));
}
