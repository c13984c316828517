/** All rules over one placement. */
import type { Placement } from '../placement/placement';
import { BOOT_RULES } from './boot';
import { FAT_RULES } from './fat';
import type { Finding, Rule, Severity } from './finding';
import { MEDIUM_RULES } from './medium';
import { PLACE_RULES } from './place';
import { SYSTEM_RULES } from './system';
import { TABLE_RULES } from './table';
import { TYPE_RULES } from './type';

const RULES: readonly Rule[] = [
  ...MEDIUM_RULES,
  ...TABLE_RULES,
  ...PLACE_RULES,
  ...BOOT_RULES,
  ...TYPE_RULES,
  ...FAT_RULES,
  ...SYSTEM_RULES,
];

const ORDER: Readonly<Record<Severity, number>> = { stop: 0, risk: 1, note: 2 };

/** Everything the rules find, stops first, else in the order of the rules. */
export function check(placement: Placement): Finding[] {
  return RULES.flatMap((rule) => rule(placement)).sort((a, b) => ORDER[a.severity] - ORDER[b.severity]);
}

/** The findings that prevent a build. */
export function stopsAmong(findings: readonly Finding[]): Finding[] {
  return findings.filter((finding) => finding.severity === 'stop');
}
