/** Long tests first: where nothing is known of the last run, a long one at the end would run alone. */
import { createRequire } from 'node:module';

const { default: Sequencer } = createRequire(import.meta.url)('@jest/test-sequencer');

const LONGEST = [
  'machine/kept.test.ts',
  'machine/ext-cuts.test.ts',
  'machine/ext.test.ts',
  'machine/kernel.test.ts',
  'machine/contents.test.ts',
  'cli/docs.proof.test.ts',
  'cli/process.proof.test.ts',
  'survey/fuzz.proof.test.ts',
  'server/server.proof.test.ts',
  'files/hostile-archives.proof.test.ts',
];

export default class LongestFirst extends Sequencer {
  async sort(tests) {
    const placeOf = ({ path }) => LONGEST.findIndex((one) => path.endsWith(one));
    const long = tests.filter((test) => placeOf(test) >= 0).sort((a, b) => placeOf(a) - placeOf(b));
    const others = await super.sort(tests.filter((test) => placeOf(test) < 0));
    return [...long, ...others];
  }
}
