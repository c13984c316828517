/** Zeros over the whole partition. */
import { accountOfOne } from '../account';
import type { Writer } from '../kind';
import type { ZerosContent } from './shape';

export const ZEROS_WRITER: Writer<ZerosContent> = {
  ranges: (_content, { start, sectors, sectorSize }) => [
    { what: 'overwritten with zeros', extent: { offset: start * sectorSize, zeros: sectors * sectorSize } },
  ],
  account: (_content, { sectors, sectorSize }) => accountOfOne('Overwritten with zeros', sectors * sectorSize),
};
