/** Where the room of an ext volume is: structures by its group descriptors, and what is in use by its bitmaps or their counts. */
import { type RoomMap, MapDrawing, UsedRuns } from '../room-map';
import { BrokenChain } from '../volume';
import { GROUP_FLAG } from './numbers';
import { copiesOf } from './read/head';
import type { Inodes } from './read/inodes';

/** Groups up to which every bitmap is read; of more of them the counts tell enough. */
const READ_GROUPS = 256;

/** Groups beyond which no map is drawn. */
const MOST_GROUPS = 2 ** 20;

/** Draws the map of a volume. Throws a BrokenChain where its descriptors lie outside of the source, or are too many. */
export async function extMap(inodes: Inodes, cells: number): Promise<RoomMap> {
  const { head } = inodes;
  if (head.groups > MOST_GROUPS) throw new BrokenChain('it has more groups than are drawn');
  const { superblock, block, blocks, groups } = head;
  const { firstDataBlock, blocksPerGroup, inodesPerGroup, reservedTable } = superblock;
  const drawing = new MapDrawing(blocks * block, block, cells);
  const table = Math.ceil((inodesPerGroup * head.inodeBytes) / block);
  const described = Math.min(Math.ceil((groups * head.descriptorBytes) / block), head.firstMetaGroup);
  const startOf = (group: number) => firstDataBlock + group * blocksPerGroup;
  // What lies ahead of the first group no bitmap tells of.
  drawing.add('structures', 0, firstDataBlock * block);
  drawing.add('used', 0, firstDataBlock * block);
  const structure = (at: number, count: number) => drawing.add('structures', at * block, count * block);
  for (const group of copiesOf(head)) structure(startOf(group), 1 + described + reservedTable);
  const all = new UsedRuns(drawing, (one) => one * block, block);
  let g = -1;
  for await (const group of inodes.groups()) {
    g += 1;
    if (group.inodeTable < 1 || group.inodeTable >= blocks) throw new BrokenChain(`group ${g} has no inode table`);
    structure(group.blockBitmap, 1);
    structure(group.inodeBitmap, 1);
    structure(group.inodeTable, table);
    const [start, end] = [startOf(g), Math.min(blocks, startOf(g) + blocksPerGroup)];
    const isRead = groups <= READ_GROUPS && (group.flags & GROUP_FLAG.blocksUnset) === 0;
    const isThere = group.blockBitmap > 0 && group.blockBitmap < blocks;
    if (!isRead || !isThere) {
      drawing.add('used', start * block, Math.max(0, end - start - group.freeBlocks) * block);
      continue;
    }
    const bits = await inodes.read(group.blockBitmap * block, block);
    for (let i = 0; i < end - start; i++) if ((bits[i >> 3]! & (1 << (i & 7))) !== 0) all.add(start + i);
  }
  all.flush();
  // What bitmaps say is in use counts structures too.
  return drawing.map(true);
}
