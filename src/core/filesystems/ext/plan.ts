/**
 * Blocks for everything that a volume holds: its journal, the map of its spare descriptors, directories,
 * and files in the order of the tree, each in one piece where there is one that is large enough.
 */
import type { Tree } from '../tree';
import type { ExtGeometry } from './geometry';
import { FreeBlocks, placeGroups, type Run } from './groups';
import { mapBlocksOf, type Piece, type Range } from './mapping';
import { contentBytes, type ExtNode, type ExtNodes, nodesOf } from './nodes';

/** Where something lies: its blocks, and those of its map. */
export interface Placed {
  readonly pieces: readonly Piece[];
  readonly map: readonly number[];
}

export interface PlacedNode extends Placed {
  readonly node: ExtNode;
  /** Block of its extended attributes. */
  readonly attributes: number | undefined;
}

export interface ExtPlan {
  readonly nodes: ExtNodes;
  readonly placed: readonly PlacedNode[];
  readonly journal: Placed;
  /** Block that leads to the spare descriptors. */
  readonly resize: number | undefined;
  readonly free: FreeBlocks;
  /** Blocks that directories, files, their maps and attributes take; where they have no room, those that they would. */
  readonly used: number;
  /** Bytes lost in last blocks of files. */
  readonly slack: number;
  /** The first that has no room. */
  readonly misfit: string | undefined;
}

type Form = Pick<ExtGeometry, 'features' | 'block'>;

/** The blocks of ranges of a file, one behind another in these runs. */
function piecesIn(runs: readonly Run[], ranges: readonly Range[]): Piece[] {
  const pieces: Piece[] = [];
  let which = 0;
  let at = runs[0]?.start ?? 0;
  for (const { logical, count } of ranges) {
    for (let done = 0; done < count;) {
      while (at === runs[which]!.end) at = runs[++which]!.start;
      const some = Math.min(count - done, runs[which]!.end - at);
      pieces.push({ logical: logical + done, physical: at, count: some });
      at += some;
      done += some;
    }
  }
  return pieces;
}

const NOTHING: Placed = { pieces: [], map: [] };

/** Blocks for ranges of a file, its map ahead of them; undefined where there are not enough. */
function place(form: Form, free: FreeBlocks, ranges: readonly Range[]): Placed | undefined {
  const count = ranges.reduce((sum, one) => sum + one.count, 0);
  if (count === 0) return NOTHING;
  const least = mapBlocksOf(form.features, form.block, ranges);
  const runs = free.take(least + count);
  if (!runs) return undefined;
  // As nearly every file lies: in one piece, which needs no blocks for its map.
  if (least === 0 && runs.length === 1 && ranges.length === 1)
    return { pieces: [{ logical: ranges[0]!.logical, physical: runs[0]!.start, count }], map: NOTHING.map };
  const map: number[] = [];
  const rest = runs.map((run) => ({ ...run }));
  for (const run of rest) while (map.length < least && run.start < run.end) map.push(run.start++);
  const pieces = piecesIn(
    rest.filter(({ start, end }) => end > start),
    ranges,
  );
  // In more pieces than one it may have more extents than were counted on.
  const needed = form.features.has('extents') ? mapBlocksOf(form.features, form.block, pieces) : least;
  for (let missing = needed - least; missing > 0; missing--) {
    const more = free.take(1);
    if (!more) return undefined;
    map.push(more[0]!.start);
  }
  return { pieces, map };
}

/** Blocks that a node takes at least, its map and attributes included. */
export function leastBlocks(node: ExtNode, form: Form): number {
  const count = node.ranges.reduce((sum, one) => sum + one.count, 0);
  return (
    count +
    (count > 0 ? mapBlocksOf(form.features, form.block, node.ranges) : 0) +
    (node.attributes.inBlock.length > 0 ? 1 : 0)
  );
}

const LEAST = new WeakMap<ExtNodes, number>();

/** Blocks that a whole tree takes at least in a volume of the form that its nodes are made for. */
export function leastBlocksOf(nodes: ExtNodes, form: Form): number {
  const known = LEAST.get(nodes);
  if (known !== undefined) return known;
  const least = nodes.nodes.reduce((sum, node) => sum + leastBlocks(node, form), 0);
  LEAST.set(nodes, least);
  return least;
}

const PLANS = new WeakMap<ExtGeometry, WeakMap<Tree, ExtPlan>>();

/** Places a tree in a volume; worked out once for both. */
export function planExt(geometry: ExtGeometry, tree: Tree): ExtPlan {
  const known = PLANS.get(geometry) ?? new WeakMap<Tree, ExtPlan>();
  PLANS.set(geometry, known);
  const before = known.get(tree);
  if (before) return before;
  const made = makePlan(geometry, tree);
  known.set(tree, made);
  return made;
}

function makePlan(geometry: ExtGeometry, tree: Tree): ExtPlan {
  const { block, blocks, journalBlocks, spareDescriptorBlocks } = geometry;
  const nodes = nodesOf(tree, geometry);
  const free = new FreeBlocks(placeGroups(geometry).taken, blocks);
  const resize = spareDescriptorBlocks > 0 ? free.take(1)?.[0]?.start : undefined;
  const journal = place(geometry, free, [{ logical: 0, count: journalBlocks }]) ?? NOTHING;
  const before = free.left;
  const placed: PlacedNode[] = [];
  let misfit: string | undefined;
  let slack = 0;
  for (const node of nodes.nodes) {
    const where = place(geometry, free, node.ranges);
    const own = node.attributes.inBlock.length > 0 ? free.take(1)?.[0]?.start : -1;
    if (!where || own === undefined) {
      misfit ??= node.path;
      break;
    }
    placed.push({ node, ...where, attributes: own < 0 ? undefined : own });
  }
  for (const node of nodes.nodes) {
    const count = node.entry?.kind === 'file' ? node.ranges.reduce((sum, one) => sum + one.count, 0) : 0;
    if (count > 0) slack += Math.max(0, count * block - contentBytes(node));
  }
  const taken = before - free.left;
  const used = misfit === undefined ? taken : Math.max(geometry.clusters + 1, leastBlocksOf(nodes, geometry));
  return { nodes, placed, journal, resize, free, used, slack, misfit };
}
