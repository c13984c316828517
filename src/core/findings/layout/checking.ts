/** The rules over one placement, except those about what is inside its slots: they come in. */
import type { Layout } from '../../layout/document';
import { applyEdit } from '../../layout/edits';
import { SLOT_LIMIT } from '../../layout/vocabulary';
import type { Placement } from '../../placement/placement';
import { withAcceptance } from './acceptance';
import { BOOT_RULES } from './boot';
import { ESP_RULES } from './esp';
import { FAT_RULES } from './fat';
import { GPT_RULES } from './gpt';
import { beyondFound } from './as-found';
import { KEPT_RULES } from './kept';
import { LOGICAL_RULES } from './logical';
import { MACHINE_RULES } from './machine';
import { BOARD_RULES } from './board';
import { SIZE_RULES } from './size';
import { byGravity } from '../severity';
import { type Finding, type Rule } from './finding';
import { MEDIUM_RULES } from './medium';
import { PLACE_RULES } from './place';
import { SYSTEM_RULES } from './system';
import { TABLE_RULES } from './table';
import { TYPE_RULES } from './type';
import { SWAP_RULES } from './swap';

const BEFORE: readonly Rule[] = [
  ...KEPT_RULES,
  ...MEDIUM_RULES,
  ...TABLE_RULES,
  ...LOGICAL_RULES,
  ...GPT_RULES,
  ...SIZE_RULES,
  ...PLACE_RULES,
  ...BOOT_RULES,
  ...MACHINE_RULES,
  ...BOARD_RULES,
  ...ESP_RULES,
  ...TYPE_RULES,
  ...FAT_RULES,
];
const AFTER: readonly Rule[] = [...SYSTEM_RULES, ...SWAP_RULES];

/** Every rule but those about what is inside, in the order in which they are asked. */
export const OUTSIDE_RULES: readonly Rule[] = [...BEFORE, ...AFTER];

/** Slots that one remedy may add. */
const MOST_ADDED = 16;

/** Findings without the remedies for which the layout has no slots left. */
function withinLimit(findings: Finding[], layout: Layout): Finding[] {
  if (layout.slots.length + MOST_ADDED <= SLOT_LIMIT) return findings;
  return findings.map((finding) => ({
    ...finding,
    remedies: finding.remedies.filter(({ edit }) => applyEdit(layout, edit).slots.length <= SLOT_LIMIT),
  }));
}

/**
 * Everything the rules find, stops first, else in the order of the rules. `inside` are the rules
 * about what is inside: all of them, or none where the layout says nothing about that.
 */
export function checkWith(inside: readonly Rule[], placement: Placement): Finding[] {
  const all = [...BEFORE, ...inside, ...AFTER].flatMap((rule) => rule(placement));
  const found = beyondFound(all, placement.layout);
  return byGravity(withinLimit(withAcceptance(found, placement.layout), placement.layout));
}
