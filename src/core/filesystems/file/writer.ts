/** A supplied file as it is written. */
import { accountOfFile } from '../account';
import type { Writer } from '../kind';
import type { FileContent } from './shape';

export const FILE_WRITER: Writer<FileContent> = {
  ranges: ({ sha256, size }, { start, sectorSize }) => [
    { what: 'supplied file', extent: { offset: start * sectorSize, copied: { from: sha256, at: 0, length: size } } },
  ],
  account: ({ name, size }, { sectors, sectorSize }) =>
    accountOfFile({ title: 'a supplied file', name, size, used: undefined }, sectors * sectorSize),
};
