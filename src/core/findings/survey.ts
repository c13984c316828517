/** Findings about what a survey found. They use the same three words, and block no build of a layout. */
import { type FoundPartition, type Survey } from '../survey/found';
import { SURVEY_CHAIN_RULES } from './survey-chain';
import { SURVEY_EXFAT_RULES } from './survey-exfat';
import { SURVEY_FAT_RULES } from './survey-fat';
import type { SurveyFinding, SurveyRule } from './survey-finding';
import { SURVEY_GPT_RULES } from './survey-gpt';
import { SURVEY_PLACE_RULES } from './survey-place';
import { SURVEY_TABLE_RULES } from './survey-table';

export type { FoundPartition, SurveyFinding };

const RULES: readonly SurveyRule[] = [
  ...SURVEY_TABLE_RULES,
  ...SURVEY_CHAIN_RULES,
  ...SURVEY_GPT_RULES,
  ...SURVEY_PLACE_RULES,
  ...SURVEY_FAT_RULES,
  ...SURVEY_EXFAT_RULES,
];

const ORDER = { stop: 0, risk: 1, note: 2 } as const;

/** Everything the rules find in a survey, stops first. */
export function checkSurvey(survey: Survey): SurveyFinding[] {
  return RULES.flatMap((rule) => rule(survey)).sort((a, b) => ORDER[a.severity] - ORDER[b.severity]);
}
