/** An ext volume against what was recognised in its place. */
import type { Fact, FoundInside, Meant } from '../reader';
import { versionMade } from './features';
import type { ExtMade } from './kind';
import { storedExtLabel } from './label';
import type { ExtContent } from './shape';

export function compareExt({ content, made, room }: Meant<ExtContent, ExtMade>, { known }: FoundInside): Fact[] {
  if (!made?.geometry.ok) return [];
  const { block, blocks, clusters, journalBlocks } = made.geometry.value;
  // Room is counted as the superblock counts it: what is not free.
  const used = (blocks - clusters + (room?.used ?? 0)) * block;
  return [
    ['content', versionMade(content.version, journalBlocks > 0), known?.name],
    ['UUID', content.uuid, known?.id],
    ['label', storedExtLabel(content.label ?? '').text, known && (known.label ?? '')],
    ['bytes', blocks * block, known?.size],
    ['bytes per block', block, known?.block],
    ['bytes in use', room && used, known?.used],
  ];
}
