/** The whole check of an ext volume as a kernel would see it: what was worked off before, and all faults. */
import type { BlockSource } from '../../../bytes/blocks';
import { FILE_TYPE } from '../numbers';
import { replayWords, settled } from '../replay/replay';
import { checkExt, type CheckOptions } from './check';
import { type Fault, FAULT_LIMIT } from './faults';

/** What a check came to. Plain data. */
export interface VolumeCheck {
  /** Why nothing could be checked. */
  readonly refused?: string | undefined;
  /** What was worked off in memory, in sentences. */
  readonly words: readonly string[];
  readonly faults: readonly Fault[];
  /** There may be more: after so many no more are told. */
  readonly isCutShort: boolean;
  /** Files and folders with a name. */
  readonly files: number;
  readonly folders: number;
}

/** Checks all of the ext volume at a byte of the source. */
export async function checkWhole(
  source: BlockSource,
  base: number,
  available: number,
  options: CheckOptions = {},
): Promise<VolumeCheck> {
  const nothing = { words: [], faults: [], isCutShort: false, files: 0, folders: 0 };
  const found = await settled(source, base);
  if (!found) return { ...nothing, refused: 'there is no ext here' };
  if ('refused' in found) return { ...nothing, refused: found.refused };
  const { faults, entries } = await checkExt(found.view, base, available, options);
  const folders = entries.filter(({ inode }) => inode.kind === FILE_TYPE.folder.mode).length;
  return {
    words: replayWords(found.replay),
    faults,
    isCutShort: faults.length >= FAULT_LIMIT,
    files: entries.length - folders,
    folders,
  };
}
