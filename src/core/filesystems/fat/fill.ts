/**
 * Filling a FAT volume: from a tree to the clusters of every folder and file.
 *
 *   | root (FAT32) | folders, outermost first | files in the order of the tree | free |
 *
 * Everything lies in one piece, in this order, so that a reader which follows no chain copes.
 * What a file does not fill of its last cluster is zeros: no old byte shows behind it.
 */
import { type Extent, joined } from '../../bytes/extents';
import { isStoredLabel } from './label';
import {
  clustersFor,
  nameTroubles,
  pathIn,
  type Room,
  roomOfAll,
  type TreeTrouble,
  plainChildren,
  type PlainNode,
  specialTroubles,
} from '../allocation';
import { FAT_NAMES } from '../names';
import { extentsOfFile, type FolderNode, foldersOf, filesOf, rootOf, type Tree, type TreeFile } from '../tree';
import { ATTRIBUTE_FOLDER, attributeByte, FAT_ENTRY_LENGTH, labelEntry, longEntries, shortEntry } from './entries';
import { type FatGeometry, sectorOfCluster } from './geometry';
import { entriesFor, shortNames } from './short-names';
import { fatBytes, type Variant } from './variants';

/** Largest file: its size is a 32-bit number. */
const FILE_LIMIT = 2 ** 32 - 1;
/** Most entries of a directory: 2 MiB of them. */
export const DIRECTORY_LIMIT = 65_536;
/** First cluster of the data area, and of the root directory of FAT32. */
export const FIRST_CLUSTER = 2;

/** Facts of a tree that do not depend on the volume; computed once for it. */
export interface TreeShape {
  readonly root: FolderNode;
  readonly folders: readonly FolderNode[];
  /** Directory entries of each folder, `.` and `..` and no label included; the root has none of these. */
  readonly entries: readonly number[];
  readonly files: readonly TreeFile[];
  readonly troubles: readonly TreeTrouble[];
}

const SHAPES = new WeakMap<Tree, TreeShape>();

function troublesOf(folder: FolderNode, entries: number): TreeTrouble[] {
  const troubles: TreeTrouble[] = [...nameTroubles(folder, FAT_NAMES), ...specialTroubles(folder)];
  for (const child of folder.children)
    if (child.kind === 'file' && child.entry.size > FILE_LIMIT)
      troubles.push({ kind: 'file too large', path: pathIn(folder, child.name), size: child.entry.size });
  if (entries > DIRECTORY_LIMIT) troubles.push({ kind: 'folder too large', path: folder.path, entries });
  return troubles;
}

/** The shape of a tree, with all that FAT cannot hold. */
export function shapeOfTree(tree: Tree): TreeShape {
  const known = SHAPES.get(tree);
  if (known) return known;
  const root = rootOf(tree);
  const folders = foldersOf(root);
  const entries = folders.map((folder, i) =>
    folder.children.reduce((sum, child) => sum + entriesFor(child.name), i === 0 ? 0 : 2),
  );
  const troubles = folders.flatMap((folder, i) => troublesOf(folder, entries[i]!));
  const shape = { root, folders, entries, files: filesOf(tree), troubles };
  SHAPES.set(tree, shape);
  return shape;
}

/** The room of a FAT volume. */
export interface FatRoom extends Room {
  /** Entries of the fixed root directory that are missing; 0 where it holds them, and on FAT32. */
  readonly rootShort: number;
}

type Place = Pick<FatGeometry, 'variant' | 'clusterBytes' | 'clusters' | 'rootEntries'>;

/** Clusters of each folder; the root has at least one on FAT32 and none elsewhere. */
function folderClusters({ entries }: TreeShape, { variant, clusterBytes }: Place, hasLabel: boolean): number[] {
  return entries.map((count, i) => {
    if (i > 0) return clustersFor(count * FAT_ENTRY_LENGTH, clusterBytes);
    return variant === 32 ? Math.max(1, clustersFor((count + (hasLabel ? 1 : 0)) * FAT_ENTRY_LENGTH, clusterBytes)) : 0;
  });
}

/** Says whether a tree has room in a volume, to the cluster, and what is the first that has none. */
export function roomFor(tree: Tree, place: Place, label: string): FatRoom {
  const shape = shapeOfTree(tree);
  const hasLabel = isStoredLabel(label);
  const rootNeeds = shape.entries[0]! + (hasLabel ? 1 : 0);
  return {
    ...roomOfAll(shape, folderClusters(shape, place, hasLabel), place),
    rootShort: place.variant === 32 ? 0 : Math.max(0, rootNeeds - place.rootEntries),
  };
}

/** Clusters in one piece. */
interface Run {
  readonly first: number;
  readonly count: number;
}

/** A range of a filled volume, in bytes from its start; `file` is the path of what it belongs to. */
export interface FilledExtent {
  readonly what: string;
  readonly file?: string;
  readonly extent: Extent;
}

export interface Filled {
  /** Clusters that are taken. */
  readonly used: number;
  /** The beginning of a FAT, up to the last entry in use. */
  readonly fat: Uint8Array;
  /** The root directory, whole, as far as it holds entries. */
  readonly root: Uint8Array;
  /** Folders and files, ascending. The root directory is not among them. */
  readonly ranges: readonly FilledExtent[];
}

/** What stands beside the geometry in the entries. */
export interface FillIdentity {
  readonly label: string;
  /** Time of everything that has none of its own. */
  readonly date: string;
  /** Files and folders keep their own times. */
  readonly keepsTimes: boolean;
}

/** A FAT in which every run is a chain, with the two first entries given. */
function chains(variant: Variant, media: number, runs: readonly Run[], end: number): Uint8Array {
  const mask = variant === 32 ? 0x0fffffff : variant === 16 ? 0xffff : 0xfff;
  const entries = new Uint32Array(end);
  entries[0] = (mask & ~0xff) | media;
  entries[1] = mask;
  for (const { first, count } of runs) {
    for (let i = 0; i < count - 1; i++) entries[first + i] = first + i + 1;
    if (count > 0) entries[first + count - 1] = mask;
  }
  if (variant === 32) return new Uint8Array(entries.buffer);
  if (variant === 16) return new Uint8Array(Uint16Array.from(entries).buffer);
  const packed = new Uint8Array(fatBytes(12, end));
  entries.forEach((value, i) => {
    const at = Math.floor((i * 3) / 2);
    if (i % 2 === 0) {
      packed[at] = value & 0xff;
      packed[at + 1] = (packed[at + 1] ?? 0) | (value >> 8);
    } else {
      packed[at] = packed[at]! | ((value & 0x0f) << 4);
      packed[at + 1] = value >> 4;
    }
  });
  return packed;
}

/** Lays the tree into the volume. The tree must have no trouble, and room. */
export function fillFat(geometry: FatGeometry, tree: Tree, identity: FillIdentity): Filled {
  const shape = shapeOfTree(tree);
  const { variant, clusterBytes, sectorSize, headers } = geometry;
  const hasLabel = isStoredLabel(identity.label);
  let next = FIRST_CLUSTER;
  const take = (count: number): Run => {
    const run = { first: count === 0 ? 0 : next, count };
    next += count;
    return run;
  };
  const folderRuns = folderClusters(shape, geometry, hasLabel).map(take);
  const runOfFolder = new Map(shape.folders.map((folder, i) => [folder, folderRuns[i]!]));
  const fileRuns = shape.files.map(({ size }) => take(clustersFor(size, clusterBytes)));
  const runOfFile = new Map(shape.files.map((file, i) => [file, fileRuns[i]!]));
  const dateOf = (time: string | undefined) => (identity.keepsTimes ? (time ?? identity.date) : identity.date);
  // The root directory counts as cluster 0 for those below it.
  const clusterOf = (folder: FolderNode) => (folder === shape.root ? 0 : runOfFolder.get(folder)!.first);

  const entryOf = (node: PlainNode, name: Uint8Array, caseBits: number): Uint8Array => {
    if (node.kind === 'file') {
      const { size, attributes, time } = node.entry;
      const cluster = runOfFile.get(node.entry)!.first;
      return shortEntry({ name, caseBits, cluster, size, attributes: attributeByte(attributes), date: dateOf(time) });
    }
    const attributes = ATTRIBUTE_FOLDER | attributeByte(node.entry?.attributes);
    return shortEntry({
      name,
      caseBits,
      cluster: clusterOf(node),
      size: 0,
      attributes,
      date: dateOf(node.entry?.time),
    });
  };
  const dots = (folder: FolderNode, parent: FolderNode): Uint8Array[] =>
    [['.', folder] as const, ['..', parent] as const].map(([text, to]) =>
      entryOf(
        to,
        Uint8Array.from(text.padEnd(11), (c) => c.charCodeAt(0)),
        0,
      ),
    );
  const childEntries = (folder: FolderNode): Uint8Array[] => {
    const children = plainChildren(folder);
    const shorts = shortNames(children.map((child) => child.name));
    return children.flatMap((child, i) => {
      const short = shorts[i]!;
      const long = short.isAlias ? longEntries(child.name, short) : [];
      return [...long, entryOf(child, short.bytes, short.caseBits)];
    });
  };
  const parents = new Map<FolderNode, FolderNode>();
  for (const folder of shape.folders)
    for (const child of folder.children) if (child.kind === 'folder') parents.set(child, folder);

  const at = (cluster: number) => sectorOfCluster(geometry, cluster) * sectorSize;
  const rootParts = [...(hasLabel ? [labelEntry(identity.label, identity.date)] : []), ...childEntries(shape.root)];
  const ranges: FilledExtent[] = [];
  shape.folders.forEach((folder, i) => {
    if (i === 0) return;
    const { first, count } = folderRuns[i]!;
    const bytes = joined([...dots(folder, parents.get(folder)!), ...childEntries(folder)], count * clusterBytes);
    ranges.push({ what: 'folders', file: folder.path, extent: { offset: at(first), bytes } });
  });
  shape.files.forEach((entry, i) => {
    const { size, path } = entry;
    const { first, count } = fileRuns[i]!;
    if (size === 0) return;
    const offset = at(first);
    ranges.push(...extentsOfFile(entry, offset).map((extent) => ({ what: 'files', file: path, extent })));
    const rest = count * clusterBytes - size;
    if (rest > 0) ranges.push({ what: 'files', file: path, extent: { offset: offset + size, zeros: rest } });
  });
  const runs = variant === 32 ? [...folderRuns, ...fileRuns] : [...folderRuns.slice(1), ...fileRuns];
  return {
    used: next - FIRST_CLUSTER,
    fat: chains(variant, headers.media, runs, next),
    root: joined(rootParts, rootParts.length * FAT_ENTRY_LENGTH),
    ranges,
  };
}
