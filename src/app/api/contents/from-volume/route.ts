import { takeFromVolume } from '@/server/browsing';
import { currentContext } from '@/server/context';
import { readBody, respond } from '@/server/http';
import { TakeFromVolumeBody } from '@/server/requests/bodies';

/** Takes files from a volume of an image; answers with the new tree. */
export function POST(request: Request) {
  return respond(async () => {
    const { into, under, keepsAll, ...asked } = await readBody(request, TakeFromVolumeBody);
    return takeFromVolume(currentContext(), asked, { into, under }, keepsAll === true);
  }, 201);
}
