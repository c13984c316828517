/** What an exFAT volume holds: bitmap, up-case table, folders and files, each in one piece. */
import { MIB } from '../../quantity/units';
import { type Extent, joined } from '../../bytes/extents';
import { encode } from '../../bytes/record';
import { attributeByte, fatTime } from '../fat/entries';
import { nameKey } from '../names';
import {
  clustersFor,
  nameTroubles,
  type Room,
  roomOfAll,
  type TreeTrouble,
  plainChildren,
  type PlainNode,
  specialTroubles,
} from '../allocation';
import { EXFAT_NAMES } from './names';
import { extentsOfFile, filesOf, type FolderNode, foldersOf, rootOf, type Tree, type TreeFile } from '../tree';
import { storedTable } from '../upcase';
import { byteOfCluster, type ExfatGeometry } from './geometry';
import {
  BITMAP_ENTRY,
  EXFAT_ENTRY_LENGTH,
  FILE_ENTRY,
  HAS_CLUSTERS,
  IN_ONE_PIECE,
  LABEL_ENTRY,
  NAME_ENTRY,
  STREAM_ENTRY,
  sum16,
  sum32,
  TYPE,
  UPCASE_ENTRY,
} from './records';

/** Longest label, in UTF-16 units. */
export const EXFAT_LABEL_LIMIT = 11;
/** Largest directory (section 7.4). */
const FOLDER_LIMIT = 256 * MIB;
const PIECE = 15;
const FOLDER_BIT = 0x10;
/** Quarter hours from UTC: none, and that is known. */
const UTC = 0x80;
const FIRST = 2;
/** Label, bitmap and up-case table. */
const ROOT_SPECIALS = 3;

interface Shape {
  readonly root: FolderNode;
  readonly folders: readonly FolderNode[];
  /** Bytes of each folder's entries; of the root with its three own ones. */
  readonly lengths: readonly number[];
  readonly files: readonly TreeFile[];
  readonly troubles: readonly TreeTrouble[];
}

const SHAPES = new WeakMap<Tree, Shape>();

/** Entries of one file or folder: file, stream, and one for every fifteen characters. */
function entriesFor(name: string): number {
  return 2 + Math.ceil(name.length / PIECE);
}

function shapeOf(tree: Tree): Shape {
  const known = SHAPES.get(tree);
  if (known) return known;
  const root = rootOf(tree);
  const folders = foldersOf(root);
  const lengths = folders.map(
    ({ children }, i) =>
      EXFAT_ENTRY_LENGTH * children.reduce((sum, { name }) => sum + entriesFor(name), i === 0 ? ROOT_SPECIALS : 0),
  );
  const troubles = folders.flatMap((folder, i): TreeTrouble[] => {
    const found = [...nameTroubles(folder, EXFAT_NAMES), ...specialTroubles(folder)];
    return lengths[i]! > FOLDER_LIMIT
      ? [...found, { kind: 'folder too large', path: folder.path, entries: lengths[i]! / EXFAT_ENTRY_LENGTH }]
      : found;
  });
  const shape = { root, folders, lengths, files: filesOf(tree), troubles };
  SHAPES.set(tree, shape);
  return shape;
}

/** What stands against a tree in any exFAT volume. */
export function exfatTroubles(tree: Tree): readonly TreeTrouble[] {
  return shapeOf(tree).troubles;
}

type Place = Pick<ExfatGeometry, 'clusterBytes' | 'clusters'>;

let table: Uint8Array | undefined;
const upcaseTable = (): Uint8Array => (table ??= storedTable());

/** Clusters of bitmap and up-case table, which every volume has beside its root directory. */
function systemClusters(place: Place): number[] {
  return [
    clustersFor(Math.ceil(place.clusters / 8), place.clusterBytes),
    clustersFor(upcaseTable().length, place.clusterBytes),
  ];
}

/** Clusters of the structures that every volume has. */
export function exfatSystem(
  tree: Tree,
  place: Place,
): { readonly bitmap: number; readonly upcase: number; readonly root: number } {
  const [bitmap, upcase] = systemClusters(place) as [number, number];
  return { bitmap, upcase, root: Math.max(1, clustersFor(shapeOf(tree).lengths[0]!, place.clusterBytes)) };
}

/** Clusters that a tree takes, and the first file that has no room. */
export function exfatRoom(tree: Tree, place: Place): Room {
  const shape = shapeOf(tree);
  const folderClusters = shape.lengths.map((length) => Math.max(1, clustersFor(length, place.clusterBytes)));
  return roomOfAll(
    shape,
    folderClusters,
    place,
    systemClusters(place).reduce((a, b) => a + b, 0),
  );
}

export interface ExfatIdentity {
  readonly serial: number;
  readonly label: string;
  readonly date: string;
  readonly keepsTimes: boolean;
}

interface Target {
  readonly name: string;
  readonly attributes: number;
  readonly cluster: number;
  /** Bytes of the content; of a folder those of its clusters. */
  readonly length: number;
  readonly date: string;
}

/** The set of entries of a file or folder (7.4, 7.6, 7.7). */
function entrySet({ name, attributes, cluster, length, date }: Target): Uint8Array {
  const at = fatTime(date);
  const stamp = ((at.date << 16) | at.time) >>> 0;
  const upper = nameKey(name);
  const hashed = new Uint8Array(2 * upper.length);
  for (let i = 0; i < upper.length; i++) new DataView(hashed.buffer).setUint16(2 * i, upper.charCodeAt(i), true);
  const file = {
    type: TYPE.file,
    secondaries: entriesFor(name) - 1,
    checksum: 0,
    attributes,
    created: stamp,
    modified: stamp,
    accessed: stamp,
    createdTenth: 0,
    modifiedTenth: 0,
    createdZone: UTC,
    modifiedZone: UTC,
    accessedZone: UTC,
  };
  const stream = encode(STREAM_ENTRY, {
    type: TYPE.stream,
    flags: length > 0 ? HAS_CLUSTERS | IN_ONE_PIECE : HAS_CLUSTERS,
    nameLength: name.length,
    nameHash: sum16(hashed),
    validLength: BigInt(length),
    cluster,
    length: BigInt(length),
  });
  const names = Array.from({ length: Math.ceil(name.length / PIECE) }, (_, i) =>
    encode(NAME_ENTRY, { type: TYPE.name, flags: 0, name: name.slice(PIECE * i, PIECE * (i + 1)).padEnd(PIECE, '\0') }),
  );
  const set = joined([encode(FILE_ENTRY, file), stream, ...names]);
  set.set(encode(FILE_ENTRY, { ...file, checksum: sum16(set, [2, 3]) }));
  return set;
}

/** A range with a name, in bytes from the start of the volume. */
export interface ExfatRange {
  readonly what: string;
  readonly file?: string;
  readonly extent: Extent;
}

export interface ExfatFilled {
  readonly used: number;
  readonly rootCluster: number;
  /** The FAT up to its last entry in use: chains of bitmap, up-case table and root directory. */
  readonly fat: Uint8Array;
  readonly ranges: readonly ExfatRange[];
}

/** Lays system structures and a tree into the heap. The tree must have no trouble, and room. */
export function fillExfat(geometry: ExfatGeometry, tree: Tree, identity: ExfatIdentity): ExfatFilled {
  const { root, folders, lengths, files } = shapeOf(tree);
  const { clusterBytes, clusters } = geometry;
  let next = FIRST;
  const take = (count: number) => {
    const run = { first: count === 0 ? 0 : next, count };
    next += count;
    return run;
  };
  const [bitmap, upcase] = systemClusters(geometry).map(take) as [ReturnType<typeof take>, ReturnType<typeof take>];
  const folderRuns = lengths.map((length) => take(Math.max(1, clustersFor(length, geometry.clusterBytes))));
  const runOfFolder = new Map(folders.map((folder, i) => [folder, folderRuns[i]!]));
  const fileRuns = files.map(({ size }) => take(clustersFor(size, geometry.clusterBytes)));
  const runOfFile = new Map(files.map((file, i) => [file, fileRuns[i]!]));
  const used = next - FIRST;

  const dateOf = (time: string | undefined) => (identity.keepsTimes ? (time ?? identity.date) : identity.date);
  const setOf = (node: PlainNode): Uint8Array => {
    const { name, entry } = node;
    const common = { name, date: dateOf(entry?.time) };
    const bits = attributeByte(entry?.attributes);
    if (node.kind === 'file')
      return entrySet({
        ...common,
        attributes: bits,
        cluster: runOfFile.get(node.entry)!.first,
        length: node.entry.size,
      });
    const { first, count } = runOfFolder.get(node)!;
    return entrySet({ ...common, attributes: bits | FOLDER_BIT, cluster: first, length: count * clusterBytes });
  };
  const bits = new Uint8Array(Math.ceil(clusters / 8));
  bits.fill(0xff, 0, used >> 3);
  if (used % 8 > 0) bits[used >> 3] = (1 << (used % 8)) - 1;
  const stored = upcaseTable();
  const { label } = identity;
  const specials = [
    encode(LABEL_ENTRY, {
      type: label === '' ? TYPE.noLabel : TYPE.label,
      count: label.length,
      label: label.padEnd(EXFAT_LABEL_LIMIT, '\0'),
    }),
    encode(BITMAP_ENTRY, { type: TYPE.bitmap, flags: 0, cluster: bitmap.first, length: BigInt(bits.length) }),
    encode(UPCASE_ENTRY, {
      type: TYPE.upcase,
      checksum: sum32(stored),
      cluster: upcase.first,
      length: BigInt(stored.length),
    }),
  ];
  const at = (cluster: number) => byteOfCluster(geometry, cluster);
  const ranges: ExfatRange[] = [];
  const whole = (
    what: string,
    { first, count }: { first: number; count: number },
    bytes: Uint8Array,
    file?: string,
  ) => {
    ranges.push({ what, ...(file !== undefined && { file }), extent: { offset: at(first), bytes } });
    const rest = count * clusterBytes - bytes.length;
    if (rest > 0)
      ranges.push({
        what,
        ...(file !== undefined && { file }),
        extent: { offset: at(first) + bytes.length, zeros: rest },
      });
  };
  // Of the bitmap only what has bits is held; the rest of it is zeros.
  whole('allocation bitmap', bitmap, bits.subarray(0, Math.ceil(used / 8)));
  whole('up-case table', upcase, stored);
  folders.forEach((folder, i) => {
    const sets = plainChildren(folder).map(setOf);
    if (folder === root) whole('root directory', folderRuns[i]!, joined([...specials, ...sets]));
    else whole('folders', folderRuns[i]!, joined(sets), folder.path);
  });
  files.forEach((entry, i) => {
    const { size, path } = entry;
    if (size === 0) return;
    const { first, count } = fileRuns[i]!;
    ranges.push(...extentsOfFile(entry, at(first)).map((extent) => ({ what: 'files', file: path, extent })));
    const rest = count * clusterBytes - size;
    if (rest > 0) ranges.push({ what: 'files', file: path, extent: { offset: at(first) + size, zeros: rest } });
  });
  const chained = [bitmap, upcase, folderRuns[0]!];
  const fat = new Uint32Array(FIRST + chained.reduce((sum, { count }) => sum + count, 0));
  fat[0] = 0xfffffff8;
  fat[1] = 0xffffffff;
  for (const { first, count } of chained)
    for (let i = 0; i < count; i++) fat[first + i] = i < count - 1 ? first + i + 1 : 0xffffffff;
  return { used, rootCluster: folderRuns[0]!.first, fat: new Uint8Array(fat.buffer), ranges };
}
