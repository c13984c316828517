/** Where the attributes of an inode stand, in it and in a block of their own ("Extended Attributes"). */
import { ATTRIBUTES_MAGIC, SHORT_INODE_BYTES } from './numbers';
import { FURTHER_INODE } from './records';

/** Where the first entry of a block of attributes stands, and its checksum. */
const [BLOCK_HEAD, ENTRY_HEAD] = [32, 16];
/** Index of the attributes of the system, and the name of the one that holds data of a small file or directory. */
const [SYSTEM, DATA_NAME] = [7, 'data'];

/** An attribute where it stands. */
export interface AttributePlace {
  readonly index: number;
  readonly name: string;
  /** Byte of its entry; of its value, where that stands in the same bytes; and the inode that holds it, or 0. */
  readonly at: number;
  readonly value: number;
  readonly length: number;
  readonly inode: number;
}

/** Where the entries of an inode begin; undefined where it has none. */
function firstInInode(bytes: Uint8Array): number | undefined {
  if (bytes.length <= SHORT_INODE_BYTES + 4) return undefined;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  const head = SHORT_INODE_BYTES + view.getUint16(FURTHER_INODE.fields.extra.offset, true);
  return head + 4 <= bytes.length && view.getUint32(head, true) === ATTRIBUTES_MAGIC ? head + 4 : undefined;
}

function* entries(bytes: Uint8Array, first: number, base: number): Generator<AttributePlace> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  for (let at = first; at + ENTRY_HEAD <= bytes.length && view.getUint32(at, true) !== 0;) {
    const length = view.getUint8(at);
    const name = String.fromCharCode(...bytes.subarray(at + ENTRY_HEAD, at + ENTRY_HEAD + length));
    const value = base + view.getUint16(at + 2, true);
    yield {
      index: view.getUint8(at + 1),
      name,
      at,
      value,
      length: view.getUint32(at + 8, true),
      inode: view.getUint32(at + 4, true),
    };
    at += ENTRY_HEAD + 4 * Math.ceil(length / 4);
  }
}

/** The attributes that stand in an inode. */
export function* attributesIn(inode: Uint8Array): Generator<AttributePlace> {
  const first = firstInInode(inode);
  if (first !== undefined) yield* entries(inode, first, first);
}

/** The attributes of a block of them. */
export const attributesOfBlock = (block: Uint8Array): Generator<AttributePlace> => entries(block, BLOCK_HEAD, 0);

/** Where data of the inode itself stands among its attributes. */
export function dataPlace(inode: Uint8Array): { readonly at: number; readonly length: number } | undefined {
  for (const { index, name, value, length } of attributesIn(inode))
    if (index === SYSTEM && name === DATA_NAME && value + length <= inode.length) return { at: value, length };
  return undefined;
}
