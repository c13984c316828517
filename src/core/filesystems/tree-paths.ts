/** What lies at a path of a tree, as a reader of the volume finds it: with its links followed. */
import type { Tree, TreeEntry } from './tree';

/** Most links that a system follows on one way. */
const LINKS_LIMIT = 40;

export type AtPath = { readonly kind: 'folder' } | { readonly kind: 'entry'; readonly entry: TreeEntry };

interface Index {
  readonly entries: ReadonlyMap<string, TreeEntry>;
  readonly folders: ReadonlySet<string>;
}

const KNOWN = new WeakMap<Tree, { [mindsCase: string]: Index }>();

const keyOf = (path: string, mindsCase: boolean) => (mindsCase ? path : path.toLowerCase());

function indexOf(tree: Tree, mindsCase: boolean): Index {
  const known = KNOWN.get(tree) ?? {};
  KNOWN.set(tree, known);
  return (known[String(mindsCase)] ??= indexed(tree, mindsCase));
}

function indexed(tree: Tree, mindsCase: boolean): Index {
  const entries = new Map<string, TreeEntry>();
  const folders = new Set<string>(['']);
  for (const entry of tree) {
    const path = keyOf(entry.path, mindsCase);
    entries.set(path, entry);
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1)) folders.add(path.slice(0, at));
    if (entry.kind === 'folder') folders.add(path);
  }
  return { entries, folders };
}

/**
 * What lies at a path from the root of the volume; links are followed as if the volume were the root of a system.
 * Undefined where nothing does, or where links go round.
 */
export function atPath(tree: Tree, path: string, mindsCase: boolean): AtPath | undefined {
  const { entries, folders } = indexOf(tree, mindsCase);
  const left = path.split('/').reverse();
  const here: string[] = [];
  let links = 0;
  while (left.length > 0) {
    const name = left.pop()!;
    if (name === '' || name === '.') continue;
    if (name === '..') {
      here.pop();
      continue;
    }
    here.push(name);
    const key = keyOf(here.join('/'), mindsCase);
    const entry = entries.get(key);
    if (entry?.kind === 'link') {
      links += 1;
      if (links > LINKS_LIMIT) return undefined;
      here.pop();
      if (entry.target.startsWith('/')) here.length = 0;
      left.push(...entry.target.split('/').reverse());
      continue;
    }
    if (folders.has(key)) continue;
    // Behind something that is no folder nothing lies.
    if (!entry || left.some((one) => one !== '' && one !== '.')) return undefined;
    return { kind: 'entry', entry };
  }
  return { kind: 'folder' };
}
