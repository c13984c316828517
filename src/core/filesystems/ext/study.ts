/**
 * The study of an ext slot: for these files, what every size of block and number of inodes costs, and
 * which cannot be here.
 */
import { KIB, MIB } from '../../quantity/units';
import type { Site } from '../kind';
import type { Tree, TreeEntry } from '../tree';
import { EXT_BLOCKS, extGeometry, type ExtRefusal } from './geometry';
import { extQuestion } from './kind';
import { contentBytes, inodesLeft, nodesOf } from './nodes';
import { leastBlocks, leastBlocksOf } from './plan';
import type { ExtContent } from './shape';

/** Bytes of the volume for one inode that are compared. */
const PER_INODE = [4 * KIB, 16 * KIB, 64 * KIB, MIB] as const;
/** Files of a made-up folder. */
const IN_A_FOLDER = 100;

/** One block with one number of inodes, and what they cost. */
export interface ExtStudyRow {
  readonly block: number;
  readonly perInode: number;
  readonly inodes: number;
  readonly inodesLeft: number;
  /** Bytes of all structures that do not depend on the files. */
  readonly structures: number;
  /** Bytes that files and folders can have. */
  readonly usable: number;
  /** Bytes lost in last blocks. */
  readonly slack: number;
  /** Bytes that files, folders, maps and attributes take in whole blocks; of folders alone. */
  readonly taken: number;
  readonly inFolders: number;
  readonly fits: boolean;
}

export interface ExtStudyGap {
  readonly block: number;
  readonly perInode: number;
  readonly refusal: ExtRefusal;
}

export interface ExtStudy {
  readonly rows: readonly ExtStudyRow[];
  readonly gaps: readonly ExtStudyGap[];
}

/** Files of these sizes (bytes, and how often), a hundred to a folder. */
export function treeOfSizes(sizes: ReadonlyMap<number, number>): Tree {
  const tree: TreeEntry[] = [];
  for (const [size, times] of sizes)
    for (let i = 0; i < times; i++) {
      const n = tree.length;
      tree.push({ kind: 'file', path: `folder-${Math.floor(n / IN_A_FOLDER)}/file-${n}`, size, sha256: '' });
    }
  return tree;
}

/** Studies a slot with these files. What the content says of block and inodes is left aside. */
export function studyExt(content: ExtContent, site: Site, tree: Tree): ExtStudy {
  const rows: ExtStudyRow[] = [];
  const gaps: ExtStudyGap[] = [];
  for (const block of EXT_BLOCKS.filter((one) => one >= site.sectorSize && one <= site.pageSize))
    for (const perInode of PER_INODE) {
      const made = extGeometry({ ...extQuestion(content, site, tree), block, perInode });
      if (!made.ok) {
        gaps.push({ block, perInode, refusal: made.error });
        continue;
      }
      const geometry = made.value;
      const nodes = nodesOf(tree, geometry);
      const least = leastBlocksOf(nodes, geometry);
      let [slack, inFolders] = [0, 0];
      for (const node of nodes.nodes) {
        if (node.directory) inFolders += leastBlocks(node, geometry) * block;
        const count = node.entry?.kind === 'file' ? node.ranges.reduce((sum, one) => sum + one.count, 0) : 0;
        slack += Math.max(0, count * block - contentBytes(node));
      }
      rows.push({
        block,
        perInode,
        inodes: geometry.groups * geometry.inodesPerGroup,
        inodesLeft: inodesLeft(geometry, tree),
        structures: (geometry.blocks - geometry.clusters) * block,
        usable: geometry.clusters * block,
        slack,
        taken: least * block,
        inFolders,
        fits: least <= geometry.clusters,
      });
    }
  return { rows, gaps };
}

/** The row that costs least of those that hold the files: what structures and last blocks take. */
export function thriftiestExt(rows: readonly ExtStudyRow[]): ExtStudyRow | undefined {
  const cost = ({ structures, slack, taken }: ExtStudyRow) => structures + slack + taken;
  return rows.filter(({ fits }) => fits).sort((a, b) => cost(a) - cost(b))[0];
}
