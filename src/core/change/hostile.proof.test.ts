/** What is made to keep a reader busy: what would mend, cut or clear it is thought out soon, in what lies in the medium. */
import { type Hostile, HOSTILE } from '@tests/hostile';
import { HOSTILE_EXT } from '@tests/hostile-ext';
import { oneOf } from '@tests/tier';
import type { BlockSource } from '../bytes/blocks';
import { surveyFitting, surveyMedium } from '../survey/survey';
import { changedSource, plannedEnd } from './plan';
import { DOES, proposed } from './proposal';

/** What may be read for one of them: a few surveys, each within its own budget. */
const MOST = { reads: 40_000, bytes: 2 ** 30 };

test.each<Hostile>(oneOf(2, [...HOSTILE, ...HOSTILE_EXT]))('%s', async (_name, make) => {
  const image = await make();
  let [reads, bytes] = [0, 0];
  const source: BlockSource = {
    size: image.size,
    isHole: (at, length) => image.isHole(at, length),
    read: (at, length) => {
      if (at < 0 || at + length > image.size) throw new RangeError(`read ${at}+${length}`);
      [reads, bytes] = [reads + 1, bytes + length];
      return image.read(at, length);
    },
  };
  const survey = await surveyFitting((sectorSize) => surveyMedium(source, { sectorSize }));
  for (const does of DOES) {
    [reads, bytes] = [0, 0];
    const { plan } = await proposed(survey, source, { does });
    let end = 0;
    for (const { extent } of plan.ranges) {
      expect(extent.offset).toBeGreaterThanOrEqual(end);
      end = plannedEnd(extent);
    }
    expect(end).toBeLessThanOrEqual(image.size);
    expect({ does, isLittle: reads < MOST.reads && bytes < MOST.bytes }).toEqual({ does, isLittle: true });
    if (does !== 'clear') continue;
    const after = await surveyMedium(changedSource(source, plan), { sectorSize: survey.sectorSize });
    expect([after.table, after.partitions.map(({ inside }) => inside.kind)]).toEqual(['none', ['zeros']]);
  }
});
