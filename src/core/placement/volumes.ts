/** What the volumes of a placement have room for, and what is in them. */
import { exfatRoom, exfatTroubles } from '../filesystems/exfat/fill';
import { roomFor, shapeOfTree } from '../filesystems/fat/fill';
import type { Tree } from '../filesystems/tree';
import { treeOfSlot } from '../layout/contents';
import type { PlacedPartition, Placement } from './placement';

/** Clusters of a volume that is made here, and how its files lie in them. */
export interface VolumeRoom {
  readonly kind: 'FAT' | 'exFAT';
  readonly tree: Tree;
  /** Clusters taken, and all there are. */
  readonly used: number;
  readonly clusters: number;
  readonly clusterBytes: number;
  /** Path of the first file or folder without room. */
  readonly misfit: string | undefined;
  /** Entries that a fixed root directory lacks. */
  readonly rootShort: number;
  /** Bytes lost in the last clusters of files. */
  readonly slack: number;
  readonly troubles: ReturnType<typeof shapeOfTree>['troubles'];
}

/** The room of a volume; undefined where none is made, or its files are not known here. */
export function roomOf(placed: PlacedPartition, { contents }: Pick<Placement, 'contents'>): VolumeRoom | undefined {
  const { fat, exfat, slot } = placed;
  const tree = treeOfSlot(slot, contents);
  if (!tree) return undefined;
  if (fat?.ok) {
    const room = roomFor(tree, fat.value, slot.fileSystem?.label ?? '');
    return { kind: 'FAT', tree, clusterBytes: fat.value.clusterBytes, troubles: shapeOfTree(tree).troubles, ...room };
  }
  if (!exfat?.ok) return undefined;
  const { clusterBytes } = exfat.value;
  return {
    kind: 'exFAT',
    tree,
    clusterBytes,
    rootShort: 0,
    troubles: exfatTroubles(tree),
    ...exfatRoom(tree, exfat.value),
  };
}
