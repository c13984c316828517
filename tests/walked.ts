/** What tests do with any volume: it is walked, and a little of each of its first files is read. */
import type { BlockSource } from '@/core/bytes/blocks';
import { openVolume } from '@/core/filesystems/readers';
import { BrokenChain, contentOf, walk } from '@/core/filesystems/volume';

/** How far: entries of the walk, the first of them whose content is read, and bytes of each. */
export interface WalkLimits {
  readonly entries: number;
  readonly contents: number;
  readonly bytes: number;
}

/** Walks the volume at byte `base`, if there is one that is known, within the limits. A chain that is broken is no fault of the reader. */
export async function walkVolume(source: BlockSource, base: number, limits: WalkLimits): Promise<void> {
  const volume = base < source.size ? await openVolume(source, base) : undefined;
  if (!volume) return;
  let entries = 0;
  for await (const { entry } of walk(volume, () => undefined)) {
    if ((entries += 1) > limits.entries) break;
    if (entry.folder || entries > limits.contents) continue;
    let read = 0;
    try {
      for await (const bytes of contentOf(volume, source, entry)) if ((read += bytes.length) > limits.bytes) break;
    } catch (error) {
      if (!(error instanceof BrokenChain)) throw error;
    }
  }
}
