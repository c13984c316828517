/** Makes an ext volume, empty or filled: every byte range that the format defines, zeros included. */
import { endOf, type Extent, joined, part, shifted } from '../../bytes/extents';
import { crc32c } from '../../bytes/crc32c';
import { bytesOfText } from '../../bytes/utf8';
import type { NamedRange } from '../kind';
import { extentsOfFile, modeOf, type Tree, type TreeFile } from '../tree';
import { attributeBlock, ATTRIBUTES_SUM_AT, putInInode } from './attributes';
import { Checksums } from './checksums';
import { type DirectoryEntry, writeDirectory } from './directory';
import type { ExtGeometry } from './geometry';
import type { Placed } from './free-blocks';
import { descriptorTable, groupFacts, lastInode, usageOf } from './descriptors';
import { type InodeFacts, instantOf, putInode, sealInode } from './inode';
import { extentTail, type Piece, writeExtents, writeMap, type WrittenMap } from './mapping';
import { contentBytes, directoryForm, type ExtNode, type ExtNodes, typeOf } from './nodes';
import { type ExtPlan, planExt, type PlacedNode } from './plan';
import { addBitmaps, addCopies, addTable, Ranges, writeSpare } from './structures';
import { FILE_TYPE, INODE, INODE_FLAG } from './numbers';
import { type ExtIdentity, journalHead, superblock } from './superblock';

/** Mode of the folder that every ext has of itself, and of files of the system. */
const PRIVATE_FOLDER = 0o700;
const PRIVATE_FILE = 0o600;

/** Adds the content of a file where its blocks lie: what is stored is copied, all else of them is zeros. */
function addContent(
  ranges: Ranges,
  file: TreeFile,
  placed: readonly Piece[],
  block: number,
  extents: readonly Extent[],
): void {
  let next = 0;
  for (const { logical, physical, count } of placed) {
    const [from, to] = [logical * block, (logical + count) * block];
    const shift = (physical - logical) * block;
    let at = from;
    const zeros = (until: number) => {
      if (until > at) ranges.add('files', { offset: at + shift, zeros: until - at }, file.path);
      at = Math.max(at, until);
    };
    for (; next < extents.length; next++) {
      const extent = extents[next]!;
      if ('zeros' in extent) continue;
      if (extent.offset >= to) break;
      const start = Math.max(extent.offset, from);
      const end = Math.min(endOf(extent), to);
      zeros(start);
      if (end > start) {
        ranges.add('files', shifted(part(extent, start, end), shift), file.path);
        at = end;
      }
      // The rest of it lies in a later piece.
      if (endOf(extent) > to) break;
    }
    zeros(to);
  }
}

/** The blocks of inode tables that are in use, group by group, up to the last inode. */
class InodeTables {
  readonly ofGroup: readonly Uint8Array[];

  constructor(
    private readonly geometry: ExtGeometry,
    last: number,
  ) {
    const { block, groups, inodesPerGroup, inodeSize } = geometry;
    this.ofGroup = Array.from({ length: groups }, (_, group) => {
      const count = Math.min(inodesPerGroup, Math.max(0, last - group * inodesPerGroup));
      return new Uint8Array(Math.ceil((count * inodeSize) / block) * block);
    });
  }

  /** The bytes of an inode. */
  at(inode: number): Uint8Array {
    const { inodesPerGroup, inodeSize } = this.geometry;
    const within = (inode - 1) % inodesPerGroup;
    return this.ofGroup[(inode - 1 - within) / inodesPerGroup]!.subarray(within * inodeSize, (within + 1) * inodeSize);
  }
}

/** Writes inodes, directories, maps and attributes. */
class Filling {
  readonly sums: Checksums;
  readonly ranges: Ranges;
  readonly tables: InodeTables;
  private readonly nodes: ExtNodes;
  private readonly created;

  constructor(
    private readonly geometry: ExtGeometry,
    private readonly identity: ExtIdentity,
    plan: ExtPlan,
  ) {
    this.sums = new Checksums(identity.uuid, geometry.features);
    this.ranges = new Ranges(geometry.block);
    this.tables = new InodeTables(geometry, lastInode(plan));
    this.nodes = plan.nodes;
    this.created = instantOf(identity.date);
  }

  /** The map of something that lies there, and the flags that say how it is made. */
  map(inode: number, { pieces, map }: Placed, what: string, file?: string): { map: Uint8Array; flags: number } {
    const { block, features } = this.geometry;
    let taken = 0;
    const take = () => map[taken++]!;
    const isExtents = features.has('extents');
    const written: WrittenMap = isExtents
      ? writeExtents(pieces, block, take, (node) => this.sealExtents(inode, node))
      : writeMap(pieces, block, take);
    for (const { at, bytes } of written.blocks) this.ranges.bytes(what, at, bytes, file);
    return { map: written.inInode, flags: isExtents ? INODE_FLAG.extents : 0 };
  }

  private sealExtents(inode: number, node: Uint8Array): void {
    if (!this.sums.isOn) return;
    const tail = extentTail(this.geometry.block);
    const sum = crc32c(node.subarray(0, tail), this.sums.ofInode(inode));
    new DataView(node.buffer).setUint32(tail, sum, true);
  }

  sectors({ pieces, map }: Placed, more = 0): number {
    const blocks = pieces.reduce((sum, one) => sum + one.count, 0) + map.length + more;
    return (blocks * this.geometry.block) / 512;
  }

  add(inode: number, facts: InodeFacts, node?: ExtNode): void {
    const bytes = this.tables.at(inode);
    putInode(bytes, facts);
    if (node) putInInode(bytes, node.attributes.inInode);
    sealInode(bytes, inode, this.sums);
  }

  /** An inode of the system itself: a file that nobody sees. */
  addSystem(inode: number, size: number, sectors: number, map: Uint8Array, flags: number): void {
    const mode = FILE_TYPE.file.mode | PRIVATE_FILE;
    const { created } = this;
    const facts = {
      mode,
      user: 0,
      group: 0,
      size,
      links: 1,
      sectors,
      flags,
      map,
      attributes: 0,
      modified: created,
      created,
    };
    this.add(inode, facts);
  }

  /** Owner and mode of a node. */
  private ownedBy({ inode, entry }: ExtNode) {
    const { rootUser, rootGroup } = this.identity;
    if (inode === INODE.root) return { mode: modeOf(entry), user: rootUser, group: rootGroup };
    const mode = inode === INODE.first && entry?.mode === undefined ? PRIVATE_FOLDER : modeOf(entry);
    return { mode, user: entry?.user ?? 0, group: entry?.group ?? 0 };
  }

  private inodePart(node: ExtNode, placed: PlacedNode): { map: Uint8Array; flags: number; size: number } {
    const { inode, entry, directory, target, path } = node;
    const { block } = this.geometry;
    if (directory) {
      const { map, flags } = this.map(inode, placed, 'folders', path);
      const size = directory.plan.blocks * block;
      return { map, flags: directory.plan.hashed ? flags | INODE_FLAG.hashed : flags, size };
    }
    if (entry?.kind === 'file') return { ...this.map(inode, placed, 'maps of files', path), size: entry.size };
    if (target && placed.pieces.length > 0) return { ...this.map(inode, placed, 'links', path), size: target.length };
    const map = new Uint8Array(60);
    if (target) map.set(target);
    if (entry?.kind === 'device') {
      const { major, minor } = entry;
      const view = new DataView(map.buffer);
      if (major < 256 && minor < 256) view.setUint32(0, major * 256 + minor, true);
      else view.setUint32(4, ((minor & 0xff) | (major << 8) | ((minor & ~0xff) << 12)) >>> 0, true);
    }
    return { map, flags: 0, size: target?.length ?? 0 };
  }

  node(placed: PlacedNode): void {
    const { node, attributes } = placed;
    const { entry, inode, directory, target, path } = node;
    const { block } = this.geometry;
    const time = this.identity.keepsTimes ? (entry?.time ?? this.identity.date) : this.identity.date;
    const { mode, user, group } = this.ownedBy(node);
    const { map, flags, size } = this.inodePart(node, placed);
    const facts: InodeFacts = {
      mode: mode | typeOf(entry).mode,
      user,
      group,
      size,
      links: node.links,
      sectors: this.sectors(placed, attributes === undefined ? 0 : 1),
      flags,
      map,
      attributes: attributes ?? 0,
      modified: instantOf(time),
      created: this.created,
    };
    this.add(inode, facts, node);
    if (attributes !== undefined) {
      const bytes = attributeBlock(node.attributes.inBlock, block);
      if (this.sums.isOn) {
        const sum = this.sums.ofAttributes(attributes, bytes, ATTRIBUTES_SUM_AT);
        new DataView(bytes.buffer).setUint32(ATTRIBUTES_SUM_AT, sum, true);
      }
      this.ranges.bytes('extended attributes', attributes, bytes, path);
    }
    if (directory) this.directory(placed, directory);
    else if (entry?.kind === 'file' && contentBytes(node) > 0)
      addContent(this.ranges, entry, placed.pieces, block, extentsOfFile(entry, 0));
    else if (target && placed.pieces.length > 0)
      this.ranges.bytes('links', placed.pieces[0]!.physical, joined([target], block), path);
  }

  private directory(placed: PlacedNode, directory: NonNullable<ExtNode['directory']>): void {
    const { inode, path } = placed.node;
    const { block } = this.geometry;
    const form = directoryForm(this.geometry);
    const { folder, plan, parent } = directory;
    const above = folder.path === '' ? '' : `${folder.path}/`;
    const entries = folder.children.map((child): DirectoryEntry => {
      const named = child.kind === 'second name' ? this.entryAt(child.entry.of) : child.entry;
      return {
        name: bytesOfText(child.name),
        inode: this.nodes.inodeOf.get(above + child.name)!,
        type: typeOf(named).entry,
      };
    });
    const seed = this.sums.ofInode(inode);
    const seal = this.sums.isOn
      ? { sum: (parts: readonly Uint8Array[]) => parts.reduce((sum, part) => crc32c(part, sum), seed) }
      : undefined;
    const bytes = writeDirectory(plan, entries, { self: inode, parent }, form, seal);
    for (const { logical, physical, count } of placed.pieces)
      this.ranges.bytes('folders', physical, bytes.subarray(logical * block, (logical + count) * block), path);
  }

  private byPath: ReadonlyMap<string, ExtNode['entry']> | undefined;

  private entryAt(path: string): ExtNode['entry'] {
    this.byPath ??= new Map(this.nodes.nodes.map(({ path: at, entry }) => [at, entry]));
    return this.byPath.get(path);
  }
}

function addJournal(
  filling: Filling,
  { block, journalBlocks }: ExtGeometry,
  { journal }: ExtPlan,
): Uint8Array | undefined {
  if (journalBlocks === 0) return undefined;
  const { map, flags } = filling.map(INODE.journal, journal, 'journal');
  filling.addSystem(INODE.journal, journalBlocks * block, filling.sectors(journal), map, flags);
  for (const { logical, physical, count } of journal.pieces) {
    const ahead = logical === 0 ? 1 : 0;
    if (ahead > 0) filling.ranges.bytes('journal', physical, journalHead(block, journalBlocks));
    filling.ranges.zeros('journal', physical + ahead, count - ahead);
  }
  return map;
}

/** The inode that keeps spare blocks for descriptors. */
function addSpare(filling: Filling, geometry: ExtGeometry, resize: number | undefined): void {
  if (resize === undefined) return;
  const { map, size, sectors } = writeSpare(filling.ranges, geometry, resize);
  filling.addSystem(INODE.resize, size, sectors, map, 0);
}

const NO_FILES: Tree = [];

/**
 * All ranges that an ext volume defines, ascending, in bytes from the start of the volume. What lies in free blocks is
 * not defined by the format. The tree must have no trouble, and room.
 */
export function formatExt(geometry: ExtGeometry, identity: ExtIdentity, tree: Tree = NO_FILES): NamedRange[] {
  const plan = planExt(geometry, tree);
  const filling = new Filling(geometry, identity, plan);
  const { ranges, sums, tables } = filling;
  const journalMap = addJournal(filling, geometry, plan);
  addSpare(filling, geometry, plan.resize);
  for (const placed of plan.placed) filling.node(placed);
  const facts = groupFacts(geometry, usageOf(geometry, plan), identity.leavesTables);
  const table = descriptorTable(geometry, facts, sums);
  addBitmaps(ranges, geometry, facts);
  tables.ofGroup.forEach((bytes, group) => addTable(ranges, geometry, group, bytes, identity.leavesTables));
  addCopies(ranges, geometry, table, (group) => superblock(geometry, identity, plan, journalMap, group));
  return ranges.all.sort((a, b) => a.extent.offset - b.extent.offset);
}
