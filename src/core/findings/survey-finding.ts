/** What a finding about a survey is, and what its rules share. */
import type { FoundPartition, Survey } from '../survey/found';
import type { Severity } from './finding';

/** What a finding about a survey speaks of. */
export type SurveyPlace =
  | { readonly kind: 'medium' }
  | { readonly kind: 'sector'; readonly sector: number }
  | { readonly kind: 'partition'; readonly key: string };

export interface SurveyFinding {
  readonly rule: string;
  readonly severity: Severity;
  readonly place: SurveyPlace;
  readonly sentence: string;
  readonly why: string;
}

export type SurveyRule = (survey: Survey) => SurveyFinding[];

export const MEDIUM = { kind: 'medium' } as const;

export function atSector(sector: number): SurveyPlace {
  return { kind: 'sector', sector };
}

export function atPartition({ key }: FoundPartition): SurveyPlace {
  return { kind: 'partition', key };
}

/** Partitions that hold sectors of their own: no containers. */
export function holders(survey: Survey): FoundPartition[] {
  return survey.partitions.filter((one) => one.kind !== 'container');
}
