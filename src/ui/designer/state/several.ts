import type { Edit } from '@/core/layout/edits';

/** The edit that moves several slots by one line, together and in their order. */
export function movingSeveral(order: readonly string[], ids: readonly string[], step: 1 | -1): Edit | undefined {
  const at = ids.map((id) => order.indexOf(id)).sort((a, b) => a - b);
  const edge = step < 0 ? at[0]! : at.at(-1)!;
  if (edge + step < 0 || edge + step >= order.length) return undefined;
  const moved = step < 0 ? at : [...at].reverse();
  return {
    do: 'several',
    edits: moved.map((index): Edit => ({ do: 'move slot', id: order[index]!, index: index + step })),
  };
}
