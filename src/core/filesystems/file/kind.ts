/** A supplied file, put in as it is, as a kind of content. */
import { accountOfFile } from '../account';
import type { Kind } from '../kind';
import type { FileContent } from './shape';

export const FILE: Kind<FileContent> = {
  kind: 'file',
  word: 'file',
  summary: ({ name }) => ({ word: 'file', detail: name }),
  ranges: ({ sha256, size }, { start, sectorSize }) => [
    { what: 'supplied file', extent: { offset: start * sectorSize, copied: { from: sha256, at: 0, length: size } } },
  ],
  account: ({ name, size }, { sectors, sectorSize }) =>
    accountOfFile({ title: 'a supplied file', name, size, used: undefined }, sectors * sectorSize),
  typed: () => 'none',
};
