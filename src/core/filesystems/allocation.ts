/** What allocating clusters to a tree has in common, whichever file system it becomes. */
import { nameKey, type NameRules, nameTrouble } from './names';
import type { FolderNode, LeafNode, Tree, TreeFile, TreeSpecial } from './tree';

/** A name that a volume cannot hold, or that differs from another one by case at most. */
export type NameTrouble =
  | { readonly kind: 'name'; readonly path: string; readonly why: string }
  | { readonly kind: 'same name'; readonly path: string; readonly other: string };

/** Something about a tree that a volume cannot hold. `path` as in the tree. */
export type TreeTrouble =
  | NameTrouble
  | { readonly kind: 'not held'; readonly path: string; readonly what: TreeSpecial['kind'] }
  | { readonly kind: 'file too large'; readonly path: string; readonly size: number }
  | { readonly kind: 'attribute'; readonly path: string; readonly name: string; readonly why: 'name' | 'too large' }
  | { readonly kind: 'too many names'; readonly path: string; readonly names: number }
  | { readonly kind: 'folder too large'; readonly path: string; readonly entries: number };

/** Path of something in a folder. */
export function pathIn(folder: Pick<FolderNode, 'path'>, name: string): string {
  return folder.path === '' ? name : `${folder.path}/${name}`;
}

/** What is wrong with the names of a folder, in its order. */
export function nameTroubles(folder: Pick<FolderNode, 'path' | 'children'>, rules: NameRules): NameTrouble[] {
  const seen = new Map<string, string>();
  return folder.children.flatMap(({ name }): NameTrouble[] => {
    const path = pathIn(folder, name);
    const why = nameTrouble(name, rules);
    const key = rules.bytes === undefined ? nameKey(name) : name;
    const other = seen.get(key);
    seen.set(key, other ?? name);
    return [
      ...(why ? [{ kind: 'name', path, why } as const] : []),
      ...(other === undefined ? [] : [{ kind: 'same name', path, other: pathIn(folder, other) } as const]),
    ];
  });
}

/** What of a folder a file system can hold that knows files and folders only. */
export type PlainNode = FolderNode | Extract<LeafNode, { readonly entry: TreeFile }>;

export function plainChildren({ children }: Pick<FolderNode, 'children'>): PlainNode[] {
  return children.filter((child): child is PlainNode => child.kind === 'folder' || child.kind === 'file');
}

/** What of a folder it cannot hold. */
export function specialTroubles(folder: Pick<FolderNode, 'path' | 'children'>): TreeTrouble[] {
  return folder.children.flatMap((child) =>
    child.kind === 'folder' || child.kind === 'file'
      ? []
      : [{ kind: 'not held', path: pathIn(folder, child.name), what: child.kind } as const],
  );
}

/** Clusters for so many bytes. */
export function clustersFor(bytes: number, clusterBytes: number): number {
  return Math.ceil(bytes / clusterBytes);
}

/** What a volume has for a tree, and what the tree takes. */
export interface Room {
  /** Clusters that are taken, those of the structures that lie in clusters included. */
  readonly used: number;
  readonly clusters: number;
  /** The first file or folder, in the order of allocation, that has no room. */
  readonly misfit: string | undefined;
  /** Bytes lost in the last clusters of files. */
  readonly slack: number;
}

/** Clusters of a volume that is made here, and how its files lie in them. */
export interface VolumeRoom extends Room {
  /** Kind of volume, in a word. */
  readonly kind: string;
  readonly tree: Tree;
  readonly clusterBytes: number;
  /** Entries that a fixed root directory lacks. */
  readonly rootShort: number;
  readonly troubles: readonly TreeTrouble[];
}

/**
 * Allocates clusters to folders (with the clusters of each, in the same order) and then to files, behind
 * `before` clusters that are taken, and tells where the room of `clusters` ends.
 */
export function roomOfAll(
  {
    folders,
    files,
  }: { readonly folders: readonly FolderNode[]; readonly files: readonly { size: number; path: string }[] },
  folderClusters: readonly number[],
  { clusterBytes, clusters }: { readonly clusterBytes: number; readonly clusters: number },
  before = 0,
): Room {
  let used = before;
  let misfit: string | undefined;
  let slack = 0;
  folderClusters.forEach((count, i) => {
    used += count;
    if (used > clusters) misfit ??= folders[i]!.path;
  });
  for (const { size, path } of files) {
    const count = clustersFor(size, clusterBytes);
    used += count;
    slack += count * clusterBytes - size;
    if (used > clusters && size > 0) misfit ??= path;
  }
  return { used, clusters, misfit, slack };
}
