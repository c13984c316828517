/** Files that follow from the layout, put into the tree of a slot: they go ahead of files of the same name. */
import { filesOf, type Tree, type TreeEntry, type TreeFile } from './tree';

/** A tree with files that were made, and what became of others because of them. */
export interface WithMade {
  readonly tree: Tree;
  /** Paths of what gave way, as the tree has them. */
  readonly replaced: readonly string[];
  /** What could not be put in: something that is no folder, or a folder of that name, is in its way. */
  readonly blocked: readonly { readonly path: string; readonly by: TreeEntry }[];
}

type Known = WithMade & { readonly mindsCase: boolean };

const KNOWN = new WeakMap<Tree, WeakMap<readonly TreeFile[], Known>>();

/** Names of every folder and entry as the tree spells them, by what a reader compares. */
class Spelling {
  private readonly entries = new Map<string, TreeEntry>();
  private readonly folders = new Map<string, string>();

  constructor(
    tree: Tree,
    private readonly mindsCase: boolean,
  ) {
    for (const entry of tree) {
      if (!this.entries.has(this.key(entry.path))) this.entries.set(this.key(entry.path), entry);
      const { path } = entry;
      for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) this.folder(path.slice(0, at));
      if (entry.kind === 'folder') this.folder(path);
    }
  }

  /** What has this path; undefined where nothing does, also for folders that are only named by what is in them. */
  entry(path: string): TreeEntry | undefined {
    return this.entries.get(this.key(path));
  }

  isFolder(path: string): boolean {
    return this.folders.has(this.key(path));
  }

  /** The path below folders as they are spelt already. */
  spelt(path: string): string {
    const cut = path.lastIndexOf('/');
    if (cut < 0) return path;
    const above = path.slice(0, cut);
    return `${this.folders.get(this.key(above)) ?? this.spelt(above)}${path.slice(cut)}`;
  }

  private folder(path: string): void {
    if (!this.folders.has(this.key(path))) this.folders.set(this.key(path), path);
  }

  private key(path: string): string {
    return this.mindsCase ? path : path.toLowerCase();
  }
}

/** What lies in the way to a path: the nearest thing above it that is no folder, or a folder where the file should be. */
function inTheWay(path: string, spelling: Spelling): TreeEntry | undefined {
  for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) {
    const above = spelling.entry(path.slice(0, at));
    if (above && above.kind !== 'folder') return above;
  }
  if (!spelling.isFolder(path)) return undefined;
  return spelling.entry(path) ?? { kind: 'folder', path };
}

function merged(tree: Tree, made: readonly TreeFile[], mindsCase: boolean): WithMade {
  const spelling = new Spelling(tree, mindsCase);
  const blocked: { path: string; by: TreeEntry }[] = [];
  const replacing = new Map<string, TreeFile>();
  const added: TreeFile[] = [];
  for (const file of made) {
    const by = inTheWay(file.path, spelling);
    if (by) {
      blocked.push({ path: file.path, by });
      continue;
    }
    const there = spelling.entry(file.path);
    if (there) replacing.set(there.path, { ...file, path: there.path });
    else added.push({ ...file, path: spelling.spelt(file.path) });
  }
  const put = tree.map((entry) => replacing.get(entry.path) ?? entry);
  return { tree: [...put, ...added], replaced: [...replacing.keys()], blocked };
}

/**
 * The tree with files that were made, each in the place of what has its path, or behind all others. `mindsCase`
 * where names that differ by case are two. A second name of a file that gives way names the one that was made.
 */
export function withMade(tree: Tree, made: readonly TreeFile[], mindsCase: boolean): WithMade {
  const known = KNOWN.get(tree) ?? new WeakMap<readonly TreeFile[], Known>();
  KNOWN.set(tree, known);
  const before = known.get(made);
  if (before?.mindsCase === mindsCase) return before;
  const found = { ...merged(tree, made, mindsCase), mindsCase };
  known.set(made, found);
  return found;
}

/** The files of a tree that were made. */
export function madeIn(tree: Tree): TreeFile[] {
  return filesOf(tree).filter(({ made }) => made !== undefined);
}
