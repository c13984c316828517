/** Where the bytes of an ext volume go. */
import { counted, grouped } from '../../quantity/units';
import { type Account, accountWith, type Part } from '../account';
import type { VolumeRoom } from '../allocation';
import { treeSums } from '../tree';
import type { ExtGeometry } from './geometry';
import { nodesOf } from './nodes';
import { leastBlocks } from './plan';

/** What a tree takes: directories, content of files, what is lost in last blocks, and maps, attributes and links. */
function filled(geometry: ExtGeometry, { tree, used, slack }: VolumeRoom): Part[] {
  const { block, clusters } = geometry;
  const { nodes } = nodesOf(tree, geometry);
  const folders = nodes.filter(({ directory }) => directory);
  const inFolders = folders.reduce((sum, node) => sum + leastBlocks(node, geometry), 0) * block;
  const ranges = nodes.reduce(
    (sum, node) => (node.entry?.kind === 'file' ? node.ranges.reduce((all, one) => all + one.count, sum) : sum),
    0,
  );
  const inFiles = ranges * block - slack;
  const rest = used * block - inFolders - inFiles - slack;
  const { files } = treeSums(tree);
  return [
    { name: counted(folders.length, 'folder'), bytes: inFolders, use: 'folders' },
    { name: counted(files, 'file'), bytes: inFiles, use: 'files' },
    { name: 'Lost in last blocks', bytes: slack, use: 'lost' },
    { name: 'Maps, attributes and links', bytes: rest, use: 'structure' },
    ...leftOf(geometry, clusters - used),
  ];
}

/** What is free: some of it for the administrator alone. */
function leftOf({ block, reservedBlocks }: ExtGeometry, free: number): Part[] {
  const reserved = Math.min(reservedBlocks, free);
  return [
    { name: 'Reserved for the administrator', bytes: reserved * block, use: 'free' },
    { name: 'Free for more files', bytes: (free - reserved) * block, use: 'free' },
  ];
}

/** The parts of a volume. */
export function extAccount(version: string, geometry: ExtGeometry, room: VolumeRoom | undefined): Account {
  const { block, blocks, clusters, copies, groups, tableBlocks, descriptorBlocks, spareDescriptorBlocks } = geometry;
  const { firstBlock, journalBlocks, journalMapBlocks, inodesPerGroup, tail } = geometry;
  const part = (name: string, count: number): Part => ({ name, bytes: count * block, use: 'structure' });
  const isFilled = room !== undefined && room.used <= room.clusters;
  const inodes = grouped(groups * inodesPerGroup);
  return accountWith(`${version}, ${grouped(blocks)} blocks of ${block / 1024} KiB`, [
    part('Ahead of the first group', firstBlock),
    part(counted(copies, 'superblock'), copies),
    part(`Group descriptors, ${counted(groups, 'group')}`, copies * descriptorBlocks),
    part('Room for more group descriptors', copies * spareDescriptorBlocks + (spareDescriptorBlocks > 0 ? 1 : 0)),
    part('Bitmaps of blocks and inodes', 2 * groups),
    part(`Inode tables, ${inodes} inodes`, groups * tableBlocks),
    part('Journal', journalBlocks + journalMapBlocks),
    ...(isFilled ? filled(geometry, room) : leftOf(geometry, clusters)),
    { name: 'Behind the last block', bytes: tail, use: 'unused' },
  ]);
}
