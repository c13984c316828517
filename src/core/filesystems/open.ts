/** Opening a volume of any kind that can be browsed. */
import type { BlockSource } from '../bytes/blocks';
import { openExfat } from './exfat/read';
import { openFat } from './fat/browse';
import type { Volume } from './volume';

/** The volume that begins `base` bytes into the source; undefined where there is none that can be browsed. */
export async function openVolume(source: BlockSource, base: number): Promise<Volume | undefined> {
  return (await openFat(source, base)) ?? openExfat(source, base);
}
