/** Findings about what a survey found. They use the same three words, and block no build of a layout. */
import { byGravity } from '../severity';
import { type FoundPartition, type Survey } from '../../survey/found';
import { SURVEY_CHAIN_RULES } from './chain';
import { SURVEY_EXFAT_RULES } from './exfat';
import { SURVEY_EXT_RULES } from './ext';
import { SURVEY_FAT_RULES } from './fat';
import { type SurveyFinding, type SurveyRule } from './finding';
import { SURVEY_GPT_RULES } from './gpt';
import { SURVEY_PLACE_RULES } from './place';
import { SURVEY_TABLE_RULES } from './table';

export type { FoundPartition, SurveyFinding };

/** Every rule about surveys, in the order in which they are asked. */
export const SURVEY_RULES: readonly SurveyRule[] = [
  ...SURVEY_TABLE_RULES,
  ...SURVEY_CHAIN_RULES,
  ...SURVEY_GPT_RULES,
  ...SURVEY_PLACE_RULES,
  ...SURVEY_FAT_RULES,
  ...SURVEY_EXFAT_RULES,
  ...SURVEY_EXT_RULES,
];

/** Everything the rules find in a survey, stops first. */
export function checkSurvey(survey: Survey): SurveyFinding[] {
  return byGravity(SURVEY_RULES.flatMap((rule) => rule(survey)));
}
