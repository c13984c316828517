/** Findings about a chain of logical partitions that was found. */
import { grouped } from '../quantity/units';
import { CHAIN_LIMIT } from '../survey/chain';
import type { ChainTrouble } from '../survey/found';
import { atSector, type SurveyFinding, type SurveyRule } from './survey-finding';

type Told = Pick<SurveyFinding, 'rule' | 'severity' | 'why'>;

const TOLD: Readonly<Record<ChainTrouble['kind'], Told>> = {
  loops: {
    rule: 'found/chain-loops',
    severity: 'stop',
    why: 'A reader that does not watch for it never ends.',
  },
  'leaves the container': {
    rule: 'found/chain-leaves-the-container',
    severity: 'stop',
    why: 'What the next record should say is not known; logical partitions behind it are lost.',
  },
  'has no boot record mark': {
    rule: 'found/chain-without-mark',
    severity: 'stop',
    why: 'The chain ends here for every reader; logical partitions behind it are lost.',
  },
  'is longer than is followed': {
    rule: 'found/chain-too-long',
    severity: 'risk',
    why: `It is followed for ${CHAIN_LIMIT} records; readers give up sooner or later.`,
  },
  'begins with an empty record': {
    rule: 'found/chain-begins-empty',
    severity: 'note',
    why: 'Some readers number the logical partitions differently then.',
  },
  'is out of disk order': {
    rule: 'found/chain-out-of-disk-order',
    severity: 'note',
    why: 'Numbers follow the chain, and not the places.',
  },
  'has more than two entries in a record': {
    rule: 'found/chain-with-extra-entries',
    severity: 'risk',
    why: 'The third and fourth entry have no meaning there; some readers follow them.',
  },
  'names a partition outside of the container': {
    rule: 'found/logical-outside-the-container',
    severity: 'risk',
    why: 'Readers that check it leave the partition out.',
  },
};

const chain: SurveyRule = (survey) =>
  survey.chain.map(({ kind, sector }) => ({
    ...TOLD[kind],
    place: atSector(sector),
    sentence: `The chain of logical partitions ${kind}, in sector ${grouped(sector)}.`,
  }));

export const SURVEY_CHAIN_RULES: readonly SurveyRule[] = [chain];
