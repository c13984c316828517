import { currentContext } from '@/server/context';
import { readBody, respond } from '@/server/http';
import { startProposal } from '@/server/proposals';
import { StartProposalBody } from '@/server/requests/bodies';

/** Orders an image that is another one, mended, cut or cleared. */
export function POST(request: Request) {
  return respond(async () => startProposal(currentContext(), await readBody(request, StartProposalBody)), 202);
}
