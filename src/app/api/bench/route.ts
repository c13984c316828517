import { listBench } from '@/server/bench';
import { currentContext } from '@/server/context';
import { respond } from '@/server/http';

/** The bench as it is now. */
export function GET() {
  return respond(() => listBench(currentContext()));
}
