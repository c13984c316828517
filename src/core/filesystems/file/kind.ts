/** A supplied file, put in as it is, as a kind of content. */
import type { Kind } from '../kind';
import type { FileContent } from './shape';

export const FILE: Kind<FileContent> = {
  kind: 'file',
  word: 'file',
  summary: ({ name }) => ({ word: 'file', detail: name }),
  typed: () => 'none',
};
