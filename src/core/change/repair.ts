/**
 * Repairs of what exists, each a change of a draft, which says what it will do and why, or why it cannot; a survey of
 * the draft says what is left.
 */
import type { BlockSource } from '../bytes/blocks';
import type { Survey } from '../survey/found';
import { Draft } from './plan';
import { EXFAT_REPAIRS } from './repair-exfat';
import { FAT_REPAIRS } from './repair-fat';
import { FATS_REPAIRS } from './repair-fats';
import { CHAIN_REPAIRS } from './repair-chain';
import { START_REPAIRS } from './repair-start';
import { TABLE_REPAIRS } from './repair-table';
import type { Repair } from './repairs';

/** Every repair, in the order in which they are made together. */
export const REPAIRS: readonly Repair[] = [
  ...TABLE_REPAIRS,
  ...CHAIN_REPAIRS,
  ...START_REPAIRS,
  ...FATS_REPAIRS,
  ...FAT_REPAIRS,
  ...EXFAT_REPAIRS,
];

/** Whether a survey speaks by a rule. */
type Calls = (rule: string, survey: Survey) => boolean;

/** One repair, as it was tried. */
export interface Tried {
  readonly repair: Repair;
  /** Why it could not be made; undefined where it is in the draft. */
  readonly refused: string | undefined;
  /** What it means here, where that has to be said. */
  readonly says: readonly string[];
}

/** A draft with repairs, and a survey of it. */
export interface Repaired {
  readonly draft: Draft;
  readonly tried: readonly Tried[];
  /** Called for, and not made because nobody asked for them. */
  readonly onRequest: readonly Repair[];
  readonly after: Survey;
}

/**
 * Makes repairs on a draft, one after the other, each on what the ones before left: those of `wanted`, or all that
 * are called for and not made on request alone. `survey` surveys a medium.
 */
export async function repaired(
  source: BlockSource,
  survey: (source: BlockSource) => Promise<Survey>,
  calls: Calls,
  wanted?: readonly string[],
): Promise<Repaired> {
  const draft = new Draft(source);
  const [tried, onRequest]: [Tried[], Repair[]] = [[], []];
  let now = await survey(draft);
  for (const repair of REPAIRS) {
    if (wanted && !wanted.includes(repair.id)) continue;
    if (!repair.rules.some((rule) => calls(rule, now))) continue;
    if (!wanted && repair.onRequest) {
      onRequest.push(repair);
      continue;
    }
    const says = (await repair.says?.(now, draft)) ?? [];
    const change = await repair.change(now, draft);
    tried.push({ repair, refused: change.ok ? undefined : change.error, says });
    if (!change.ok) continue;
    for (const { what, at, bytes } of change.value) draft.put(what, at, bytes);
    now = await survey(draft);
  }
  return { draft, tried, onRequest, after: now };
}
