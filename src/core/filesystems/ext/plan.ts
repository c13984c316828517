/**
 * Blocks for everything that a volume holds: its journal, the map of its spare descriptors, directories,
 * and files in the order of the tree, each in one piece where there is one that is large enough.
 */
import type { Tree } from '../tree';
import type { ExtGeometry } from './geometry';
import { FreeBlocks, type MapForm, NOTHING, place, type Placed } from './free-blocks';
import { placeGroups } from './groups';
import { placeJournal } from './journal';
import { mapBlocksOf } from './mapping';
import { contentBytes, type ExtNode, type ExtNodes, nodesOf } from './nodes';

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

/** Blocks that a node takes at least, its map and attributes included. */
export function leastBlocks(node: ExtNode, form: MapForm): number {
  const count = node.ranges.reduce((sum, one) => sum + one.count, 0);
  return (
    count +
    (count > 0 ? mapBlocksOf(form.features, form.block, node.ranges) : 0) +
    (node.attributes.inBlock.length > 0 ? 1 : 0)
  );
}

const LEAST = new WeakMap<ExtNodes, number>();

/** Blocks that a whole tree takes at least in a volume of the form that its nodes are made for. */
export function leastBlocksOf(nodes: ExtNodes, form: MapForm): number {
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
  const { block, blocks } = geometry;
  const nodes = nodesOf(tree, geometry);
  const free = new FreeBlocks(placeGroups(geometry).taken, blocks);
  const { resize, journal } = placeJournal(geometry, free) ?? { resize: undefined, journal: NOTHING };
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
