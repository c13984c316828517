/** Swap space against what was recognised in its place. */
import type { Fact, FoundInside, Meant } from '../reader';
import { pageSizeOf } from './kind';
import type { SwapContent } from './shape';

export function compareSwap({ content, site }: Meant<SwapContent>, { known }: FoundInside): Fact[] {
  return [
    ['content', `swap, ${pageSizeOf(content, site) / 1024} KiB pages`, known?.name],
    ['UUID', content.uuid, known?.id],
    ['label', content.label ?? '', known && (known.label ?? '')],
  ];
}
