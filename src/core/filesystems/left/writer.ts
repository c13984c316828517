/** A partition that is left to its system: nothing is written but zeros over old signatures. */
import { accountOfOne } from '../account';
import type { Writer } from '../kind';
import { EXPECTED_NAMES } from './expected';
import type { LeftContent } from './shape';

export const LEFT_WRITER: Writer<LeftContent> = {
  ranges: () => [],
  account: ({ expects }, { sectors, sectorSize }) =>
    accountOfOne(
      expects ? `Left to its system, for ${EXPECTED_NAMES[expects]}` : 'Left to its system',
      sectors * sectorSize,
    ),
};
