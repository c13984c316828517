/** All rules over one placement. */
import { namesContents } from '../../layout/contents';
import type { Placement } from '../../placement/placement';
import { checkWith } from './checking';
import { type Finding } from './finding';
import { INSIDE_RULES } from './inside';

/** Everything the rules find, stops first, else in the order of the rules. */
export function check(placement: Placement): Finding[] {
  return checkWith(namesContents(placement.layout) ? INSIDE_RULES : [], placement);
}
