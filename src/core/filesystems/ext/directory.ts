/**
 * Directories as they are written: a list of names in one block, or a tree by the hash of the names in
 * more of them (the kernel's documentation, "Directory Entries").
 */
import { FILE_TYPE, TAIL_BYTES, TAIL_TYPE } from './numbers';
import { halfMd4, type NameHash } from './hash';

/** Longest name, in bytes. */
export const NAME_LIMIT = 255;
/** Bytes of an entry ahead of its name. */
const ENTRY_HEAD = 8;
/** Bytes of `.` and of `..`. */
const DOT = 12;
/** Where the root of a tree has its counts, and an inner node. */
const ROOT_COUNTS = 0x20;
const NODE_COUNTS = 8;
const HASHED_BY_HALF_MD4 = 1;

export interface DirectoryEntry {
  readonly name: Uint8Array;
  readonly inode: number;
  /** Kind, as in FILE_TYPE. */
  readonly type: number;
}

/** What decides how a directory is written. */
export interface DirectoryForm {
  readonly block: number;
  /** Blocks end with a checksum. */
  readonly hasTail: boolean;
  readonly isHashed: boolean;
}

/** Bytes of an entry with a name of so many bytes. */
const entryBytes = (name: number): number => ENTRY_HEAD + 4 * Math.ceil(name / 4);

const room = ({ block, hasTail }: DirectoryForm) => block - (hasTail ? TAIL_BYTES : 0);

/** Pointers that the root of a hash tree holds, and an inner node. */
const rootLimit = ({ block, hasTail }: DirectoryForm) => (block - ROOT_COUNTS) / 8 - (hasTail ? 1 : 0);
const nodeLimit = ({ block, hasTail }: DirectoryForm) => (block - NODE_COUNTS) / 8 - (hasTail ? 1 : 0);

/** A leaf of a hash tree: entries from `from` on, up to `to` exclusive, in the order of their hashes. */
interface Leaf {
  readonly from: number;
  readonly to: number;
}

/** Names in the order of their hashes, and how they fall into leaves. */
interface Hashed {
  readonly order: readonly number[];
  readonly hashes: readonly NameHash[];
  readonly leaves: readonly Leaf[];
}

/** How a directory lies in blocks. */
export interface DirectoryPlan {
  readonly blocks: number;
  /** Missing where it is a list. */
  readonly hashed: Hashed | undefined;
}

/** How entries fall into blocks when each takes those behind one another; `ahead` bytes of the first are taken. */
function leavesOf(lengths: readonly number[], size: number, ahead: number): Leaf[] {
  const leaves: Leaf[] = [];
  let from = 0;
  let used = ahead;
  lengths.forEach((length, i) => {
    if (used + length > size) {
      leaves.push({ from, to: i });
      from = i;
      used = 0;
    }
    used += length;
  });
  return [...leaves, { from, to: lengths.length }];
}

/**
 * Plans a directory with names of so many bytes each; undefined where no hash tree can hold so many. The bytes of a
 * name are asked for where they are hashed.
 */
export function planDirectory(
  names: readonly number[],
  bytesOf: (name: number) => Uint8Array,
  form: DirectoryForm,
): DirectoryPlan | undefined {
  const lengths = names.map(entryBytes);
  const size = room(form);
  const total = lengths.reduce((sum, length) => sum + length, 2 * DOT);
  if (total <= size) return { blocks: 1, hashed: undefined };
  if (!form.isHashed) return { blocks: leavesOf(lengths, size, 2 * DOT).length, hashed: undefined };
  const hashes = names.map((_, i) => halfMd4(bytesOf(i), [], true));
  const order = names.map((_, i) => i);
  order.sort((a, b) => hashes[a]!.hash - hashes[b]!.hash || hashes[a]!.minor - hashes[b]!.minor || a - b);
  const leaves = leavesOf(
    order.map((i) => lengths[i]!),
    size,
    0,
  );
  if (leaves.length > rootLimit(form) * nodeLimit(form)) return undefined;
  const nodes = leaves.length > rootLimit(form) ? Math.ceil(leaves.length / nodeLimit(form)) : 0;
  return { blocks: 1 + nodes + leaves.length, hashed: { order, hashes, leaves } };
}

/** Puts entries one behind the other; the last one reaches to the end. */
function putEntries(bytes: Uint8Array, entries: readonly DirectoryEntry[], size: number): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  let at = 0;
  entries.forEach(({ name, inode, type }, i) => {
    const isLast = i === entries.length - 1;
    const length = isLast ? size - at : entryBytes(name.length);
    view.setUint32(at, inode, true);
    view.setUint16(at + 4, length, true);
    bytes[at + 6] = name.length;
    bytes[at + 7] = type;
    bytes.set(name, at + ENTRY_HEAD);
    at += length;
  });
  // Nothing is in it: one entry that is free.
  if (entries.length === 0) view.setUint16(4, size, true);
}

function putTail(bytes: Uint8Array): void {
  const at = bytes.length - TAIL_BYTES;
  new DataView(bytes.buffer, bytes.byteOffset).setUint16(at + 4, TAIL_BYTES, true);
  bytes[at + 7] = TAIL_TYPE;
}

/** Seals blocks with their checksums; both give the checksum of the bytes that they are handed. */
export interface Seal {
  readonly sum: (parts: readonly Uint8Array[]) => number;
}

function sealLeaf(bytes: Uint8Array, { sum }: Seal): void {
  putTail(bytes);
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  view.setUint32(bytes.length - 4, sum([bytes.subarray(0, bytes.length - TAIL_BYTES)]), true);
}

/** An index: its counts stand at `at`, its pointers from there on, the first without a hash. */
function putIndex(
  bytes: Uint8Array,
  at: number,
  limit: number,
  pointers: readonly { readonly hash: number; readonly block: number }[],
  seal: Seal | undefined,
): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  pointers.forEach(({ hash, block }, i) => {
    if (i > 0) view.setUint32(at + 8 * i, hash, true);
    view.setUint32(at + 8 * i + 4, block, true);
  });
  view.setUint16(at, limit, true);
  view.setUint16(at + 2, pointers.length, true);
  if (!seal) return;
  const tail = at + 8 * limit;
  const used = bytes.subarray(0, at + 8 * pointers.length);
  view.setUint32(tail + 4, seal.sum([used, bytes.subarray(tail, tail + 4), new Uint8Array(4)]), true);
}

const DOTS = [Uint8Array.of(0x2e), Uint8Array.of(0x2e, 0x2e)] as const;

/**
 * The blocks of a directory, one behind another. `entries` are in the order of the names that it was planned with;
 * with `seal` every block has its checksum.
 */
export function writeDirectory(
  { blocks, hashed }: DirectoryPlan,
  entries: readonly DirectoryEntry[],
  { self, parent }: { readonly self: number; readonly parent: number },
  form: DirectoryForm,
  seal: Seal | undefined,
): Uint8Array {
  const { block } = form;
  const out = new Uint8Array(blocks * block);
  const blockAt = (i: number) => out.subarray(i * block, (i + 1) * block);
  const type = FILE_TYPE.folder.entry;
  const dots: DirectoryEntry[] = [
    { name: DOTS[0], inode: self, type },
    { name: DOTS[1], inode: parent, type },
  ];
  const size = room(form);
  if (!hashed) {
    const lists = leavesOf(
      entries.map(({ name }) => entryBytes(name.length)),
      size,
      2 * DOT,
    );
    for (let i = 0; i < blocks; i++) {
      const list = lists[i];
      const own = list ? entries.slice(list.from, list.to) : [];
      putEntries(blockAt(i), i === 0 ? [...dots, ...own] : own, size);
      if (seal) sealLeaf(blockAt(i), seal);
    }
    return out;
  }
  const { order, hashes, leaves } = hashed;
  const nodes = blocks - 1 - leaves.length;
  const pointers = leaves.map(({ from }, i) => {
    const { hash } = hashes[order[from]!]!;
    const before = i > 0 ? hashes[order[from - 1]!]!.hash : undefined;
    // The lowest bit says that the leaf before has names of this hash too.
    return { hash: before === hash ? hash + 1 : hash, block: 1 + nodes + i };
  });
  leaves.forEach(({ from, to }, i) => {
    const bytes = blockAt(1 + nodes + i);
    putEntries(
      bytes,
      order.slice(from, to).map((one) => entries[one]!),
      size,
    );
    if (seal) sealLeaf(bytes, seal);
  });
  const root = blockAt(0);
  putEntries(root, dots, block);
  root[0x1c] = HASHED_BY_HALF_MD4;
  root[0x1d] = 8;
  root[0x1e] = nodes > 0 ? 1 : 0;
  if (nodes === 0) {
    putIndex(root, ROOT_COUNTS, rootLimit(form), pointers, seal);
    return out;
  }
  const most = nodeLimit(form);
  const above = Array.from({ length: nodes }, (_, i) => {
    const own = pointers.slice(i * most, (i + 1) * most);
    const bytes = blockAt(1 + i);
    new DataView(bytes.buffer, bytes.byteOffset).setUint16(4, block, true);
    putIndex(bytes, NODE_COUNTS, most, own, seal);
    return { hash: own[0]!.hash, block: 1 + i };
  });
  putIndex(root, ROOT_COUNTS, rootLimit(form), above, seal);
  return out;
}
