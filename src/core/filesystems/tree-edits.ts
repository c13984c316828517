/** Changes of trees: what is added, left out, renamed, moved, or has other attributes. */
import {
  type FileAttribute,
  isIn,
  modeOf,
  type Owned,
  pathsOf,
  type Tree,
  type TreeEntry,
  type TreeSpecial,
} from './tree';

/**
 * Second names after a change: they follow what they name to `moved`; where that is gone, the first of them
 * becomes it.
 */
function followed(before: Tree, after: Tree, moved: (path: string) => string | undefined): Tree {
  if (!before.some(({ kind }) => kind === 'second name')) return after;
  const known = new Map(before.map((one) => [one.path, one]));
  const heirs = new Map<string, string>();
  return after.map((one): TreeEntry => {
    if (one.kind !== 'second name') return one;
    const of = moved(one.of) ?? heirs.get(one.of);
    const named = known.get(one.of);
    if (of !== undefined || !named) return { ...one, of: of ?? one.of };
    heirs.set(one.of, one.path);
    return { ...named, path: one.path };
  });
}

/**
 * Adds entries: one with the path of another takes its place, all others come behind. A file
 * takes the place of a folder of its path with all that is in it, and a folder that of a file.
 */
export function withEntries(tree: Tree, added: Tree): Tree {
  const byPath = new Map(tree.map((one) => [one.path, one]));
  const inside = new Set<string>();
  for (const { path } of tree)
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) inside.add(path.slice(0, at));
  for (const one of added) {
    const { path } = one;
    if (one.kind !== 'folder' && (inside.has(path) || byPath.get(path)?.kind === 'folder'))
      for (const other of [...byPath.keys()]) if (isIn(other, path)) byPath.delete(other);
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) {
      const above = path.slice(0, at);
      inside.add(above);
      const there = byPath.get(above);
      if (there && there.kind !== 'folder') byPath.delete(above);
    }
    byPath.set(path, one);
  }
  const old = new Map(tree.map((one) => [one.path, one]));
  const isKept = (path: string) => byPath.has(path) && (!old.has(path) || byPath.get(path) === old.get(path));
  const after = [...byPath.values()];
  // Second names that came now name what came with them.
  const came = new Set<TreeEntry>(added);
  const mended = followed(tree, after, (path) => (isKept(path) ? path : undefined));
  return mended.map((one, n) => (came.has(after[n]!) ? after[n]! : one));
}

/** The tree without a file, or without a folder and all that is in it. */
export function withoutPath(tree: Tree, path: string): Tree {
  const after = tree.filter((one) => !isIn(one.path, path));
  return followed(tree, after, (other) => (isIn(other, path) ? undefined : other));
}

/** The tree in a folder of this path. */
export function within(tree: Tree, folder: string): Tree {
  if (folder === '') return tree;
  return tree.map((one) => ({
    ...one,
    path: `${folder}/${one.path}`,
    ...(one.kind === 'second name' && { of: `${folder}/${one.of}` }),
  }));
}

/** What lies in a folder of the tree, as a tree of its own; second names of what lies elsewhere become that. */
export function insideOf(tree: Tree, folder: string): Tree {
  if (folder === '') return tree;
  const inside = (path: string) => (path.startsWith(`${folder}/`) ? path.slice(folder.length + 1) : undefined);
  const after = tree.flatMap((one) => {
    const path = inside(one.path);
    return path === undefined ? [] : [{ ...one, path }];
  });
  return followed(tree, after, inside);
}

/** The tree as file systems hold it that know plain files and folders only; what those are not stays away, and is told. */
export function plainOf(tree: Tree): { readonly tree: Tree; readonly special: readonly TreeSpecial[] } {
  const plain: TreeEntry[] = [];
  const special: TreeSpecial[] = [];
  for (const one of tree) {
    if (one.kind === 'file' || one.kind === 'folder') {
      const { mode: _, user: __, group: ___, extended: ____, ...rest } = one;
      plain.push(rest);
    } else special.push(one);
  }
  return { tree: plain, special };
}

/** The tree with a file or folder, and all that is in it, under another path. */
export function withRenamed(tree: Tree, from: string, to: string): Tree {
  const moved = (path: string) => (isIn(path, from) ? to + path.slice(from.length) : path);
  const after = tree.map((one) => (isIn(one.path, from) ? { ...one, path: moved(one.path) } : one));
  return followed(tree, after, moved);
}

/**
 * The tree with other names for several files and folders, each of which stays in its folder; without
 * `names` they are left out, with all that is in them. Every path is one of the tree as it was.
 */
export function withNames(tree: Tree, paths: readonly string[], names?: readonly string[]): Tree {
  const named = new Map(paths.map((path, n) => [path, names?.[n]]));
  const moved = (path: string): string | undefined => {
    const parts: string[] = [];
    let above = '';
    for (const part of path.split('/')) {
      above = above === '' ? part : `${above}/${part}`;
      if (named.has(above) && !names) return undefined;
      parts.push(named.get(above) ?? part);
    }
    return parts.join('/');
  };
  const after = tree.flatMap((one) => {
    const path = moved(one.path);
    return path === undefined ? [] : [{ ...one, path }];
  });
  return followed(tree, after, moved);
}

/** The tree with an entry, and all that is in it, moved ahead of another one; at the end without one. */
export function withMoved(tree: Tree, path: string, before: string | undefined): Tree {
  const moved = tree.filter((one) => isIn(one.path, path));
  const others = tree.filter((one) => !isIn(one.path, path));
  const at = before === undefined ? -1 : others.findIndex((one) => isIn(one.path, before));
  return at < 0 ? [...others, ...moved] : others.toSpliced(at, 0, ...moved);
}

/** The tree with other attributes for one entry. */
export function withAttributes(tree: Tree, path: string, attributes: readonly FileAttribute[]): Tree {
  return tree.map((one) => (one.path === path && one.kind !== 'second name' ? { ...one, attributes } : one));
}

/** Rights to run a file. */
const RUN = 0o111;

/** The tree with other owners or modes for one entry, or for a folder and all below it. */
export function withOwned(
  tree: Tree,
  path: string,
  owned: Pick<Owned, 'mode' | 'user' | 'group'>,
  below: boolean,
): Tree {
  const isMeant = (one: string) => one === path || (below && isIn(one, path));
  const there = new Set(tree.map((one) => one.path));
  const after = tree.map((one) => {
    if (!isMeant(one.path) || one.kind === 'second name') return one;
    // The mode of a link is none.
    const { mode, ...owners } = owned;
    if (mode === undefined || one.kind === 'link') return { ...one, ...owners };
    // What is below a folder keeps whether it can be run.
    const isRun = one.path === path || one.kind === 'folder' || (modeOf(one) & RUN) !== 0;
    return { ...one, ...owners, mode: isRun ? mode : mode & ~RUN };
  });
  // Folders that only stand in paths get an entry of their own.
  const unsaid = [...pathsOf(tree)].filter((one) => isMeant(one) && !there.has(one));
  return [...after, ...unsaid.map((one): TreeEntry => ({ kind: 'folder', path: one, ...owned }))];
}
