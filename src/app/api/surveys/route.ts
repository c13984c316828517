import { currentContext } from '@/server/context';
import { readQuery, respond } from '@/server/http';
import { SurveyQuery } from '@/server/requests/queries';
import { surveyImage } from '@/server/surveys';

/** What is in an image. */
export function GET(request: Request) {
  return respond(async () => surveyImage(currentContext(), readQuery(request, SurveyQuery)));
}
