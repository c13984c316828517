/**
 * Inodes of a tree: which one each folder, file, link or device gets, how many names it has, how its
 * directory is planned and its attributes are placed. Nothing of it depends on the size of the volume.
 */
import { byteLength, bytesOfText } from '../../bytes/utf8';
import { nameTroubles, type TreeTrouble } from '../allocation';
import {
  type FolderNode,
  foldersOf,
  rootOf,
  storedSize,
  type Tree,
  type TreeFile,
  type TreeFolder,
  type TreeLeaf,
  type TreeLink,
  type TreeName,
} from '../tree';
import { type PlacedAttributes, placeAttributes } from './attributes';
import { type DirectoryForm, type DirectoryPlan, NAME_LIMIT, planDirectory } from './directory';
import type { Features } from './features';
import type { ExtGeometry } from './geometry';
import { mostBlocks, type Range } from './mapping';
import { EXT_NAMES } from './names';
import { FILE_TYPE, INODE } from './numbers';

/** Targets below this length lie in the inode. */
const SHORT_TARGET = 60;
/** Most names of a file; most folders in a folder, where their number must be counted. */
export const MOST_NAMES = 65_000;
const MOST_COUNTED_FOLDERS = 31_998;
const LOST_AND_FOUND = 'lost+found';

/** What is written of an inode that has a name in the tree. */
export interface ExtNode {
  readonly inode: number;
  readonly path: string;
  /** What the tree says of it; missing for folders that only stand in paths. */
  readonly entry: Exclude<TreeLeaf, TreeName> | TreeFolder | undefined;
  readonly links: number;
  readonly attributes: PlacedAttributes;
  /** Of a folder. */
  readonly directory:
    { readonly plan: DirectoryPlan; readonly folder: FolderNode; readonly parent: number } | undefined;
  /** Blocks of its content, in pieces between holes. */
  readonly ranges: readonly Range[];
  /** Bytes of the target of a link. */
  readonly target: Uint8Array | undefined;
}

/** Everything about a tree that its inodes need. */
export interface ExtNodes {
  /** The root directory first, lost+found second, then folders, then all else. */
  readonly nodes: readonly ExtNode[];
  readonly inodeOf: ReadonlyMap<string, number>;
  readonly troubles: readonly TreeTrouble[];
}

/** What of a volume decides about the nodes. */
export interface NodeForm {
  readonly block: number;
  readonly inodeSize: 128 | 256;
  readonly features: Features;
  readonly lostAndFoundBlocks: number;
}

const NO_ATTRIBUTES: PlacedAttributes = { inInode: [], inBlock: [] };

/** Inodes that a tree takes, those of the system not counted. */
export function inodesOf(tree: Tree): number {
  const leaves = tree.filter(({ kind }) => kind !== 'folder' && kind !== 'second name').length;
  const folders = foldersOf(rootOf(tree)).filter(({ path }) => path !== '' && path !== LOST_AND_FOUND).length;
  return leaves + folders;
}

/** Inodes that are free beside those of a tree, of the system and of lost+found; less than zero where they do not do. */
export function inodesLeft({ groups, inodesPerGroup }: ExtGeometry, tree: Tree): number {
  return groups * inodesPerGroup - inodesOf(tree) - INODE.first;
}

/** Blocks of a file that hold something. */
function rangesOf(file: TreeFile, block: number): Range[] {
  const { size, pieces } = file;
  if (size === 0) return [];
  if (!pieces) return [{ logical: 0, count: Math.ceil(size / block) }];
  const ranges: { logical: number; count: number }[] = [];
  for (const [at, , length] of pieces) {
    const first = Math.floor(at / block);
    const end = Math.ceil((at + length) / block);
    const last = ranges[ranges.length - 1];
    if (last && first <= last.logical + last.count) last.count = Math.max(last.count, end - last.logical);
    else ranges.push({ logical: first, count: end - first });
  }
  return ranges;
}

function bytesOfBase64(text: string): Uint8Array {
  return Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
}

function targetOf({ target }: TreeLink): Uint8Array {
  return bytesOfText(target);
}

export function directoryForm({ block, features }: Pick<NodeForm, 'block' | 'features'>): DirectoryForm {
  return { block, hasTail: features.has('metadata_csum'), isHashed: features.has('dir_index') };
}

const KNOWN = new WeakMap<Tree, Map<string, ExtNodes>>();

/** The nodes of a tree in a volume of this form; worked out once for each form. */
export function nodesOf(tree: Tree, form: NodeForm): ExtNodes {
  const key = [form.block, form.inodeSize, form.lostAndFoundBlocks, ...form.features].join();
  const known = KNOWN.get(tree) ?? new Map<string, ExtNodes>();
  KNOWN.set(tree, known);
  const before = known.get(key);
  if (before) return before;
  const made = makeNodes(tree, form);
  known.set(key, made);
  return made;
}

function makeNodes(tree: Tree, form: NodeForm): ExtNodes {
  const root = rootOf(tree);
  const folders = foldersOf(root);
  const troubles: TreeTrouble[] = folders.flatMap((folder) => nameTroubles(folder, EXT_NAMES));
  const inodeOf = new Map<string, number>([
    ['', INODE.root],
    [LOST_AND_FOUND, INODE.first],
  ]);
  let next = INODE.first + 1;
  for (const { path } of folders) if (!inodeOf.has(path)) inodeOf.set(path, next++);
  const names = new Map<string, number>();
  for (const one of tree) {
    if (one.kind === 'folder') continue;
    if (one.path === LOST_AND_FOUND)
      troubles.push({ kind: 'name', path: one.path, why: 'is the folder that every ext has of itself' });
    else if (one.kind === 'second name') names.set(one.of, (names.get(one.of) ?? 1) + 1);
    else inodeOf.set(one.path, next++);
  }
  for (const one of tree) if (one.kind === 'second name') inodeOf.set(one.path, inodeOf.get(one.of) ?? 0);

  const { block, inodeSize, features } = form;
  const attributesOf = (entry: ExtNode['entry']): PlacedAttributes => {
    if (!entry?.extended) return NO_ATTRIBUTES;
    const given = Object.entries(entry.extended).map(([name, value]) => ({ name, value: bytesOfBase64(value) }));
    const placed = placeAttributes(given, inodeSize, block);
    if (!('why' in placed)) return placed;
    troubles.push({ kind: 'attribute', path: entry.path, name: placed.name, why: placed.why });
    return NO_ATTRIBUTES;
  };
  const nodes: ExtNode[] = [];
  const dirForm = directoryForm(form);
  const addFolder = (folder: FolderNode, parent: number) => {
    const all = folder === root ? [...folder.children, ...missingLostAndFound(root)] : folder.children;
    const below = all.filter(({ kind }) => kind === 'folder').length;
    // A name that is too long is told with the names; it must not get into an entry.
    const planned = planDirectory(
      all.map(({ name }) => Math.min(NAME_LIMIT, byteLength(name))),
      (i) => bytesOfText(all[i]!.name).subarray(0, NAME_LIMIT),
      dirForm,
    );
    if (!planned || (!features.has('dir_nlink') && below > MOST_COUNTED_FOLDERS))
      troubles.push({ kind: 'folder too large', path: folder.path, entries: all.length });
    const plan = planned ?? { blocks: 1, hashed: undefined };
    const isLost = folder.path === LOST_AND_FOUND;
    const blocks = isLost && !plan.hashed ? Math.max(plan.blocks, form.lostAndFoundBlocks) : plan.blocks;
    const links = 2 + below;
    nodes.push({
      inode: inodeOf.get(folder.path)!,
      path: folder.path,
      entry: folder.entry,
      links: links >= MOST_NAMES ? 1 : links,
      attributes: attributesOf(folder.entry),
      directory: { plan: { ...plan, blocks }, folder: { ...folder, children: all }, parent },
      ranges: [{ logical: 0, count: blocks }],
      target: undefined,
    });
  };
  const inode = (path: string) => inodeOf.get(path.slice(0, Math.max(0, path.lastIndexOf('/'))))!;
  addFolder(root, INODE.root);
  const lost = folders.find(({ path }) => path === LOST_AND_FOUND) ?? missingLostAndFound(root)[0];
  if (lost) addFolder(lost, INODE.root);
  for (const folder of folders) if (folder !== root && folder !== lost) addFolder(folder, inode(folder.path));
  const most = mostBlocks(features, block);
  for (const entry of tree) {
    if (entry.kind === 'folder' || entry.kind === 'second name' || entry.path === LOST_AND_FOUND) continue;
    const links = names.get(entry.path) ?? 1;
    if (links > MOST_NAMES) troubles.push({ kind: 'too many names', path: entry.path, names: links });
    if (entry.kind === 'file' && entry.size > most * block)
      troubles.push({ kind: 'file too large', path: entry.path, size: entry.size });
    const target = entry.kind === 'link' ? targetOf(entry) : undefined;
    if (target && target.length >= block)
      troubles.push({
        kind: 'name',
        path: entry.path,
        why: `leads to a name of ${target.length} bytes, more than a block holds`,
      });
    const isLong = target !== undefined && target.length >= SHORT_TARGET;
    nodes.push({
      inode: inodeOf.get(entry.path)!,
      path: entry.path,
      entry,
      links,
      attributes: attributesOf(entry),
      directory: undefined,
      ranges: entry.kind === 'file' ? rangesOf(entry, block) : isLong ? [{ logical: 0, count: 1 }] : [],
      target,
    });
  }
  return { nodes, inodeOf, troubles };
}

/** The folder lost+found, where the tree has none. */
function missingLostAndFound(root: FolderNode): FolderNode[] {
  const isThere = root.children.some(({ name }) => name === LOST_AND_FOUND);
  return isThere ? [] : [{ kind: 'folder', name: LOST_AND_FOUND, path: LOST_AND_FOUND, children: [] }];
}

/** Kind of an entry, in modes and in directories. */
export function typeOf(entry: ExtNode['entry']): (typeof FILE_TYPE)[keyof typeof FILE_TYPE] {
  if (!entry) return FILE_TYPE.folder;
  return entry.kind === 'device' ? FILE_TYPE[entry.device] : FILE_TYPE[entry.kind];
}

/** Bytes of the content of a node that are stored elsewhere. */
export function contentBytes({ entry }: Pick<ExtNode, 'entry'>): number {
  return entry?.kind === 'file' ? storedSize(entry) : 0;
}
