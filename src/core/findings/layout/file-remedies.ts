/**
 * Remedies that change the files of a volume and nothing else: what FAT cannot hold gets another name, or
 * that one file is left out. The list of files lies beside the document; whoever carries a remedy out makes
 * a new one, and names it in the slot.
 */
import { nameKey, storableName } from '../../filesystems/names';
import type { Tree } from '../../filesystems/tree';

/** What happens to several files of a slot, by path: each gets another name, or is left out where no names are said. */
export interface FileChange {
  readonly do: 'mend';
  readonly paths: readonly string[];
  readonly names?: readonly string[];
}

/** An action on the files of a slot that answers a finding. */
export interface FileRemedy {
  readonly label: string;
  /** Id of the slot. */
  readonly slot: string;
  readonly change: FileChange;
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

/** For each of these entries a name that can be stored and that no other beside it has. */
function freeNames(tree: Tree, paths: readonly string[]): string[] {
  const taken = new Map<string, Set<string>>();
  const namesIn = (folder: string) => taken.get(folder) ?? taken.set(folder, new Set()).get(folder)!;
  for (const { path } of tree) namesIn(folderOf(path)).add(nameKey(nameOf(path)));
  return paths.map((path) => {
    const beside = namesIn(folderOf(path));
    const name = storableName(nameOf(path));
    let free = name;
    for (let n = 2; beside.has(nameKey(free)); n++) free = numbered(name, n);
    beside.add(nameKey(free));
    return free;
  });
}

/** Gives entries other names: the only one by its new name, several in one go. */
export function renaming(slot: string, tree: Tree, paths: readonly string[]): FileRemedy[] {
  const names = freeNames(tree, paths);
  const [first] = names;
  if (first === undefined) return [];
  const label = names.length === 1 ? `Call it “${first}”` : `Rename all ${names.length}`;
  return [{ label, slot, change: { do: 'mend', paths, names } }];
}

/** Leaves entries out, with all that is in them. */
export function leavingOut(slot: string, paths: readonly string[]): FileRemedy[] {
  const [first] = paths;
  if (first === undefined) return [];
  const label = paths.length === 1 ? `Leave “${nameOf(first)}” out` : `Leave these ${paths.length} out`;
  return [{ label, slot, change: { do: 'mend', paths } }];
}
