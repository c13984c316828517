/** The rules over one placement, except those about what is inside its slots: they come in. */
import type { Layout } from '../layout/document';
import { applyEdit } from '../layout/edits';
import { SLOT_LIMIT } from '../layout/vocabulary';
import type { Placement } from '../placement/placement';
import { withAcceptance } from './acceptance';
import { BOOT_RULES } from './boot';
import { ESP_RULES } from './esp';
import { FAT_RULES } from './fat';
import { FAT_IDENTITY_RULES } from './fat-identity';
import { GPT_RULES } from './gpt';
import { GPT_SHAPE_RULES } from './gpt-shape';
import { LOGICAL_RULES } from './logical';
import { MACHINE_RULES } from './machine';
import { BOARD_RULES } from './board';
import { SIZE_RULES } from './sizes';
import type { Finding, Rule, Severity } from './finding';
import { MEDIUM_RULES } from './medium';
import { PLACE_RULES } from './place';
import { SYSTEM_RULES } from './system';
import { TABLE_RULES } from './table';
import { TYPE_RULES } from './type';
import { USE_RULES } from './use';

const BEFORE: readonly Rule[] = [
  ...MEDIUM_RULES,
  ...TABLE_RULES,
  ...LOGICAL_RULES,
  ...GPT_RULES,
  ...GPT_SHAPE_RULES,
  ...SIZE_RULES,
  ...PLACE_RULES,
  ...BOOT_RULES,
  ...MACHINE_RULES,
  ...BOARD_RULES,
  ...ESP_RULES,
  ...TYPE_RULES,
  ...FAT_RULES,
  ...FAT_IDENTITY_RULES,
];
const AFTER: readonly Rule[] = [...SYSTEM_RULES, ...USE_RULES];

const ORDER: Readonly<Record<Severity, number>> = { stop: 0, risk: 1, note: 2 };

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
  const found = [...BEFORE, ...inside, ...AFTER].flatMap((rule) => rule(placement));
  return withinLimit(withAcceptance(found, placement.layout), placement.layout).sort(
    (a, b) => ORDER[a.severity] - ORDER[b.severity],
  );
}
