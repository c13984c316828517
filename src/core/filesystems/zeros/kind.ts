/** Zeros over the whole partition as a kind of content. */
import { accountOfOne } from '../account';
import type { Kind } from '../kind';
import type { ZerosContent } from './shape';

export const ZEROS: Kind<ZerosContent> = {
  kind: 'zeros',
  word: 'zeros',
  fresh: () => ({ kind: 'zeros' }),
  summary: () => ({ word: 'zeros', detail: undefined }),
  ranges: (_content, { start, sectors, sectorSize }) => [
    { what: 'overwritten with zeros', extent: { offset: start * sectorSize, zeros: sectors * sectorSize } },
  ],
  account: (_content, { sectors, sectorSize }) => accountOfOne('Overwritten with zeros', sectors * sectorSize),
  typed: () => 'none',
};
