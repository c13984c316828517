/** What a finding about a survey is, and what its rules share. */
import { grouped, inBoth } from '../../quantity/units';
import type { FoundPartition, Survey } from '../../survey/found';
import { named } from '../../survey/structures';
import { type Severity, type CaseOf, declared, type DeclaredRule } from '../severity';

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

/** One case of a rule. */
export type SurveyOccurrence = CaseOf<SurveyFinding>;
export type SurveyRule = DeclaredRule<Survey, SurveyFinding>;

/** Declares a rule about surveys. */
export function surveyRule(
  id: string,
  severity: Severity,
  find: (survey: Survey) => readonly SurveyOccurrence[],
): SurveyRule {
  return declared(id, severity, find);
}

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

/** What a rule says of a volume; its place is the partition. */
type VolumeCase = Omit<SurveyOccurrence, 'place'> | undefined;

/** Declares rules over every volume of a kind: `pick` gives what was found in a partition, if it is of that kind. */
export function overVolumes<Volume>(pick: (inside: FoundPartition['inside']) => Volume | undefined) {
  return (
    id: string,
    severity: Severity,
    look: (volume: Volume, one: FoundPartition, survey: Survey) => VolumeCase,
  ): SurveyRule =>
    surveyRule(id, severity, (survey) =>
      survey.partitions.flatMap((one): SurveyOccurrence[] => {
        const volume = pick(one.inside);
        const found = volume && look(volume, one, survey);
        return found ? [{ ...found, place: atPartition(one) }] : [];
      }),
    );
}

/** What is said of a volume that claims so many bytes more than its place has. */
export function overItsPlace(one: FoundPartition, bytes: number) {
  return {
    sentence: `The volume in ${named(one)} says that it is ${inBoth(bytes)} longer than its place.`,
    why: 'Files at its end would be written over what lies behind, or are lost already.',
  } as const;
}

/** What is said of a volume that was made for sectors of another size than those that are read. */
export function forOtherSectors(one: FoundPartition, made: number, read: number) {
  return {
    sentence: `The volume in ${named(one)} was made for sectors of ${grouped(made)} bytes; the survey reads sectors of ${grouped(read)}.`,
    why: 'It cannot be mounted from a medium of another sector size.',
  } as const;
}
