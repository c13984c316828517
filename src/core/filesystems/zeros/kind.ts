/** Zeros over the whole partition as a kind of content. */
import type { Kind } from '../kind';
import type { ZerosContent } from './shape';

export const ZEROS: Kind<ZerosContent> = {
  kind: 'zeros',
  word: 'zeros',
  fresh: () => ({ kind: 'zeros' }),
  summary: () => ({ word: 'zeros', detail: undefined }),
  typed: () => 'none',
};
