/** A partition that is left to its system as a kind of content: nothing is written but zeros over old marks. */
import type { Kind, TypeContent } from '../kind';
import { kernelType } from '../mounted';
import { type Expected, EXPECTED_NAMES } from './expected';
import type { LeftContent } from './shape';

/** What decides the type where it is no Linux file system. */
const TYPED: Readonly<Partial<Record<Expected, TypeContent>>> = {
  ntfs: 'ifs',
  ufs: 'ufs',
  swap: 'swap',
  lvm: 'lvm',
  luks: 'luks',
  raid: 'raid',
};

export const LEFT: Kind<LeftContent> = {
  kind: 'left',
  word: 'left to its system',
  fresh: () => ({ kind: 'left' }),
  summary: ({ expects }) => ({ word: 'left to its system', detail: expects && `for ${EXPECTED_NAMES[expects]}` }),
  mounted: ({ expects }) => ({ type: kernelType(expects && EXPECTED_NAMES[expects]), known: 'later' }),
  typed: ({ expects }) => (expects === undefined ? 'none' : (TYPED[expects] ?? 'linux')),
};
