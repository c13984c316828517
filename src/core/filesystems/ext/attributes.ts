/**
 * Extended attributes as they are written: behind the fields of an inode, and in a block of their own where
 * they do not fit there (the kernel's documentation, "Extended Attributes").
 */
import { ACCESS_LISTS, ATTRIBUTE_PREFIXES, ATTRIBUTES_MAGIC, EXTRA_BYTES, SHORT_INODE_BYTES } from './numbers';

/** An attribute with its whole name, such as `user.note`. */
export interface Attribute {
  readonly name: string;
  readonly value: Uint8Array;
}

/** Numbers of what names begin with that are written: users, access lists, administrators, security. */
const WRITTEN = [1, ...ACCESS_LISTS, 4, 6];

/** Bytes of an entry ahead of its name; of the head of a block; of the mark in an inode. */
const ENTRY_HEAD = 16;
const BLOCK_HEAD = 32;
const INODE_HEAD = 4;
/** Four zero bytes end the entries. */
const END = 4;
const NAME_LIMIT = 255;

/** An attribute as it is stored. */
interface Stored {
  readonly index: number;
  readonly name: Uint8Array;
  readonly value: Uint8Array;
}

const encoder = new TextEncoder();

/** Tags of an access list: those of a named user and of a named group have a number. */
const NAMED = [0x02, 0x08];

/**
 * An access list as it is stored, from the form in which kernel and archives hand it on: that has a
 * number in every entry, this one only where it says something. Undefined for what is no access list.
 */
function storedAccessList(list: Uint8Array): Uint8Array | undefined {
  const view = new DataView(list.buffer, list.byteOffset, list.byteLength);
  if (list.length < 4 || (list.length - 4) % 8 !== 0 || view.getUint32(0, true) !== 2) return undefined;
  const out = [1, 0, 0, 0];
  for (let at = 4; at < list.length; at += 8) {
    const isNamed = NAMED.includes(view.getUint16(at, true));
    out.push(...list.subarray(at, at + (isNamed ? 8 : 4)));
  }
  return Uint8Array.from(out);
}

/** An attribute as it is stored; undefined for a name that ext has no number for, or a broken access list. */
function stored({ name, value }: Attribute): Stored | undefined {
  for (const index of WRITTEN) {
    const prefix = ATTRIBUTE_PREFIXES[index]!;
    const isList = ACCESS_LISTS.includes(index);
    if (isList ? name !== prefix : !name.startsWith(prefix) || name === prefix) continue;
    const rest = encoder.encode(name.slice(prefix.length));
    const kept = isList ? storedAccessList(value) : value;
    return kept && rest.length <= NAME_LIMIT ? { index, name: rest, value: kept } : undefined;
  }
  return undefined;
}

const padded = (length: number) => 4 * Math.ceil(length / 4);
const bytesOf = ({ name, value }: Stored) => padded(ENTRY_HEAD + name.length) + padded(value.length);

/** Room for attributes behind the fields of an inode, without its mark and its end; 0 where inodes have none. */
function inodeRoom(inodeSize: number): number {
  return Math.max(0, inodeSize - SHORT_INODE_BYTES - EXTRA_BYTES - INODE_HEAD - END);
}

function inOrder(a: Stored, b: Stored): number {
  if (a.index !== b.index) return a.index - b.index;
  if (a.name.length !== b.name.length) return a.name.length - b.name.length;
  const differs = a.name.findIndex((byte, i) => byte !== b.name[i]);
  return differs < 0 ? 0 : a.name[differs]! - b.name[differs]!;
}

/** Attributes of an inode: those that lie in it, and those in a block. */
export interface PlacedAttributes {
  readonly inInode: readonly Stored[];
  readonly inBlock: readonly Stored[];
}

/** What cannot be stored, in words. */
export type AttributeTrouble = { readonly name: string; readonly why: 'name' | 'too large' };

/** Places attributes, or says which cannot be stored. */
export function placeAttributes(
  attributes: readonly Attribute[],
  inodeSize: number,
  block: number,
): PlacedAttributes | AttributeTrouble {
  const inInode: Stored[] = [];
  const inBlock: Stored[] = [];
  let [ofInode, ofBlock] = [inodeRoom(inodeSize), block - BLOCK_HEAD - END];
  const all: { one: Stored; name: string }[] = [];
  for (const attribute of attributes) {
    const one = stored(attribute);
    if (!one) return { name: attribute.name, why: 'name' };
    all.push({ one, name: attribute.name });
  }
  for (const { one, name } of all.sort((a, b) => inOrder(a.one, b.one))) {
    const length = bytesOf(one);
    if (length <= ofInode) {
      inInode.push(one);
      ofInode -= length;
    } else if (length <= ofBlock) {
      inBlock.push(one);
      ofBlock -= length;
    } else return { name, why: 'too large' };
  }
  return { inInode, inBlock };
}

/** Hash of an attribute in a block: over its name and then over its value. */
function hashOf({ name, value }: Stored): number {
  let hash = 0;
  for (const byte of name) hash = ((hash << 5) ^ (hash >>> 27) ^ byte) >>> 0;
  const words = new Uint8Array(padded(value.length));
  words.set(value);
  const view = new DataView(words.buffer);
  for (let at = 0; at < words.length; at += 4) hash = ((hash << 16) ^ (hash >>> 16) ^ view.getUint32(at, true)) >>> 0;
  return hash;
}

/** Puts entries from `first` on and values from the end of `bytes` on; offsets of values count from `base`. */
function put(bytes: Uint8Array, attributes: readonly Stored[], first: number, base: number, isHashed: boolean): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  let at = first;
  let end = bytes.length;
  for (const one of attributes) {
    const { index, name, value } = one;
    end -= padded(value.length);
    bytes[at] = name.length;
    bytes[at + 1] = index;
    if (value.length > 0) view.setUint16(at + 2, end - base, true);
    view.setUint32(at + 8, value.length, true);
    if (isHashed) view.setUint32(at + 12, hashOf(one), true);
    bytes.set(name, at + ENTRY_HEAD);
    bytes.set(value, end);
    at += padded(ENTRY_HEAD + name.length);
  }
}

/** Puts attributes behind the fields of an inode. */
export function putInInode(inode: Uint8Array, attributes: readonly Stored[]): void {
  if (attributes.length === 0) return;
  const at = SHORT_INODE_BYTES + EXTRA_BYTES;
  new DataView(inode.buffer, inode.byteOffset).setUint32(at, ATTRIBUTES_MAGIC, true);
  put(inode, attributes, at + INODE_HEAD, at + INODE_HEAD, false);
}

/** Where the checksum stands in a block of attributes. */
export const ATTRIBUTES_SUM_AT = 0x10;

/** A block of attributes, still without its checksum. */
export function attributeBlock(attributes: readonly Stored[], block: number): Uint8Array {
  const bytes = new Uint8Array(block);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, ATTRIBUTES_MAGIC, true);
  view.setUint32(4, 1, true);
  view.setUint32(8, 1, true);
  let hash = 0;
  for (const one of attributes) hash = ((hash << 16) ^ (hash >>> 16) ^ hashOf(one)) >>> 0;
  view.setUint32(12, hash, true);
  put(bytes, attributes, BLOCK_HEAD, 0, true);
  return bytes;
}
