/** Findings about a chain of logical partitions that was found. */
import type { RuleDeclaration } from '../severity';
import { grouped } from '../../quantity/units';
import { CHAIN_LIMIT } from '../../survey/chain';
import type { ChainTrouble } from '../../survey/found';
import { atSector, type SurveyRule, surveyRule } from './finding';

/** What each trouble is called, how grave it is, and why it matters. */
const TROUBLES: Readonly<Record<ChainTrouble['kind'], RuleDeclaration & { readonly why: string }>> = {
  loops: {
    id: 'found-chain/loops',
    severity: 'stop',
    why: 'A reader that does not watch for it never ends.',
  },
  'leaves the container': {
    id: 'found-chain/leaves-the-container',
    severity: 'stop',
    why: 'What the next record should say is not known; logical partitions behind it are lost.',
  },
  'has no boot record mark': {
    id: 'found-chain/without-signature',
    severity: 'stop',
    why: 'The chain ends here for every reader; logical partitions behind it are lost.',
  },
  'is longer than is followed': {
    id: 'found-chain/too-long',
    severity: 'risk',
    why: `It is followed for ${CHAIN_LIMIT} records; readers give up sooner or later.`,
  },
  'begins with an empty record': {
    id: 'found-chain/begins-empty',
    severity: 'note',
    why: 'Some readers number the logical partitions differently then.',
  },
  'is out of disk order': {
    id: 'found-chain/out-of-disk-order',
    severity: 'note',
    why: 'Numbers follow the chain, and not the places.',
  },
  'has more than two entries in a record': {
    id: 'found-chain/with-extra-entries',
    severity: 'risk',
    why: 'The third and fourth entry have no meaning there; some readers follow them.',
  },
  'names a partition outside of the container': {
    id: 'found-chain/logical-outside-the-container',
    severity: 'risk',
    why: 'Readers that check it leave the partition out.',
  },
};

const chainRule = ([kind, { id, severity, why }]: [string, (typeof TROUBLES)[ChainTrouble['kind']]]): SurveyRule =>
  surveyRule(id, severity, (survey) =>
    survey.chain
      .filter((one) => one.kind === kind)
      .map(({ sector }) => ({
        place: atSector(sector),
        sentence: `The chain of logical partitions ${kind}, in sector ${grouped(sector)}.`,
        why,
      })),
  );

export const SURVEY_CHAIN_RULES: readonly SurveyRule[] = Object.entries(TROUBLES).map(chainRule);
