/** What laying a tree into clusters has in common, whichever file system it becomes. */
import { type NamedVolume, nameKey, nameTrouble } from './names';
import type { FolderNode } from './tree';

/** A name that no FAT or exFAT volume can hold, or that differs from another one by case at most. */
export type NameTrouble =
  | { readonly kind: 'name'; readonly path: string; readonly why: string }
  | { readonly kind: 'same name'; readonly path: string; readonly other: string };

/** Path of something in a folder. */
export function pathIn(folder: Pick<FolderNode, 'path'>, name: string): string {
  return folder.path === '' ? name : `${folder.path}/${name}`;
}

/** What is wrong with the names of a folder, in its order. */
export function nameTroubles(
  folder: Pick<FolderNode, 'path' | 'children'>,
  volume: NamedVolume = 'FAT',
): NameTrouble[] {
  const seen = new Map<string, string>();
  return folder.children.flatMap(({ name }): NameTrouble[] => {
    const path = pathIn(folder, name);
    const why = nameTrouble(name, volume);
    const other = seen.get(nameKey(name));
    seen.set(nameKey(name), other ?? name);
    return [
      ...(why ? [{ kind: 'name', path, why } as const] : []),
      ...(other === undefined ? [] : [{ kind: 'same name', path, other: pathIn(folder, other) } as const]),
    ];
  });
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
  /** The first file or folder, in the order in which they are laid, that has no room. */
  readonly misfit: string | undefined;
  /** Bytes lost in the last clusters of files. */
  readonly slack: number;
}

/**
 * Lays folders (with the clusters of each, in the same order) and then files behind `before`
 * clusters that are taken, and tells where the room of `clusters` ends.
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
