/**
 * Remedies that change the files of a volume and nothing else: what FAT cannot hold gets another name, or
 * that one file is left out. The list of files lies beside the document; whoever carries a remedy out makes
 * a new one, and names it in the slot.
 */
import { nameKey, storableName } from '../../filesystems/names';
import { type Tree, withoutPath, withRenamed } from '../../filesystems/tree';

/** One change of the files of a slot, by path; a renaming says the new path. */
export type FileChange =
  | { readonly do: 'remove'; readonly path: string }
  | { readonly do: 'rename'; readonly path: string; readonly to: string };

/** An action on the files of a slot that answers a finding. */
export interface FileRemedy {
  readonly label: string;
  /** Id of the slot. */
  readonly slot: string;
  /** In this order. */
  readonly changes: readonly FileChange[];
}

/** A list of files with the changes of a remedy. */
export function withFileChanges(tree: Tree, changes: readonly FileChange[]): Tree {
  return changes.reduce(
    (so, change) => (change.do === 'remove' ? withoutPath(so, change.path) : withRenamed(so, change.path, change.to)),
    tree,
  );
}

const folderOf = (path: string): string => path.slice(0, path.lastIndexOf('/') + 1);
const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/** The name with a number, ahead of what stands behind its last point. */
function numbered(name: string, n: number): string {
  const point = name.lastIndexOf('.');
  const [stem, ending] = point > 0 ? [name.slice(0, point), name.slice(point)] : [name, ''];
  const number = `-${n}`;
  return stem.slice(0, Math.max(1, 255 - ending.length - number.length)) + number + ending;
}

/** The deepest first, so that the paths of the others stay what they are. */
const byDepth = (paths: readonly string[]): string[] =>
  [...paths].sort((a, b) => b.split('/').length - a.split('/').length);

/** Renamings that give each of these entries a name that can be stored and that no other beside it has. */
function renamings(tree: Tree, paths: readonly string[]): FileChange[] {
  const taken = new Map<string, Set<string>>();
  const namesIn = (folder: string) => taken.get(folder) ?? taken.set(folder, new Set()).get(folder)!;
  for (const { path } of tree) namesIn(folderOf(path)).add(nameKey(nameOf(path)));
  return byDepth(paths).map((path) => {
    const beside = namesIn(folderOf(path));
    const name = storableName(nameOf(path));
    let free = name;
    for (let n = 2; beside.has(nameKey(free)); n++) free = numbered(name, n);
    beside.add(nameKey(free));
    return { do: 'rename', path, to: folderOf(path) + free };
  });
}

/** Gives entries other names: the only one by its new name, several in one go. */
export function renaming(slot: string, tree: Tree, paths: readonly string[]): FileRemedy[] {
  const changes = renamings(tree, paths);
  const [first] = changes;
  if (first?.do !== 'rename') return [];
  const label = changes.length === 1 ? `Call it “${nameOf(first.to)}”` : `Rename all ${changes.length}`;
  return [{ label, slot, changes }];
}

/** Leaves entries out, with all that is in them. */
export function leavingOut(slot: string, paths: readonly string[]): FileRemedy[] {
  const [first] = paths;
  if (first === undefined) return [];
  const label = paths.length === 1 ? `Leave “${nameOf(first)}” out` : `Leave these ${paths.length} out`;
  return [{ label, slot, changes: byDepth(paths).map((path) => ({ do: 'remove', path })) }];
}
