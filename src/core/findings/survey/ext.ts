/** Findings about ext volumes that were found: what cannot be read of them, and where their structures contradict each other. */
import { grouped } from '../../quantity/units';
import { named } from '../../survey/structures';
import { overVolumes, type SurveyRule } from './finding';

const volumes = overVolumes((inside) =>
  inside.kind === 'known' && inside.content.looked
    ? { name: inside.content.name, ...inside.content.looked }
    : undefined,
);

const notRead = volumes('found-ext/not-read', 'risk', ({ name, refused }, one) =>
  refused === undefined
    ? undefined
    : {
        sentence: `${named(one)} holds ${name} that cannot be read: ${refused}.`,
        why: 'Its files are not shown, and nothing of it is guessed. A system that knows all of its features may mount it.',
      },
);

const journalBroken = volumes('found-ext/journal-broken', 'risk', ({ name, broken }, one) =>
  broken === undefined
    ? undefined
    : {
        sentence: `The journal of the ${name} in ${named(one)} cannot be replayed: ${broken}.`,
        why: 'A kernel does not mount it so. What is shown of it is what stands there, and may be torn.',
      },
);

/** Faults that are named in the sentence. */
const NAMED = 3;

const faulty = volumes('found-ext/contradicts-itself', 'risk', ({ name, faults, more }, one) => {
  if (faults.length === 0) return undefined;
  const told = faults.slice(0, NAMED).map(({ code, where, says }) => `${where}, ${code.replace(/^.*\//, '')}: ${says}`);
  const rest = faults.length - told.length + more;
  return {
    sentence: `The ${name} in ${named(one)} contradicts itself: ${told.join('; ')}${rest > 0 ? `; and ${grouped(rest)} more` : ''}.`,
    why: 'What is free and what is in use is not sure: whoever writes to it may write over files. Copy out what is needed, or have its own system check it.',
  };
});

const inPart = volumes('found-ext/looked-at-in-part', 'note', ({ name, partly }, one) => {
  const [what] = partly;
  if (what === undefined) return undefined;
  return {
    sentence: `The ${what === 'journal' ? 'journal' : 'groups'} of the ${name} in ${named(one)} ${what === 'journal' ? 'was' : 'were'} not looked at in full.`,
    why: 'That would take more reading than a survey may do. Its files are shown with all that its journal holds.',
  };
});

export const SURVEY_EXT_RULES: readonly SurveyRule[] = [notRead, journalBroken, faulty, inPart];
