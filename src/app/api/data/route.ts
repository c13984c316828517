import { currentContext } from '@/server/context';
import { carryOut, holdings } from '@/server/holdings';
import { readBodyBy, respond } from '@/server/http';
import { FOLDER_ORDERS } from '@/server/requests/bodies';

/** What the data folder holds. */
export function GET() {
  return respond(() => holdings(currentContext()));
}

/** An order about it: check, sweep, trash, builds that are over, limits. */
export function POST(request: Request) {
  return respond(async () => carryOut(currentContext(), await readBodyBy(request, 'do', FOLDER_ORDERS)));
}
