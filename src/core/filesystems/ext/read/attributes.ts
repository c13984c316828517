/** Extended attributes of an inode as kernels hand them on ("Extended Attributes"): from the inode, from a block, from inodes of their own. */
import { BrokenChain, readPieces } from '../../volume';
import { ACCESS_LISTS, ATTRIBUTE_PREFIXES, ATTRIBUTES_MAGIC, SHORT_INODE_BYTES } from '../numbers';
import { FURTHER_INODE } from '../records';
import type { ExtInode, Inodes } from './inodes';

const [ENTRY_HEAD, BLOCK_HEAD] = [16, 32];
/** Largest value that is read of an inode of its own. */
const LARGEST = 65_536;
/** Tags of an access list whose entries have a number, and what stands for none. */
const NAMED = [0x02, 0x08];
const NOBODY = 0xffff_ffff;
/** Data of a small file stands among the attributes, and is none. */
const DATA = 'system.data';

/** An access list in the kernel's form, from that in which it is stored; undefined for what is none. */
export function accessList(stored: Uint8Array): Uint8Array | undefined {
  const view = new DataView(stored.buffer, stored.byteOffset, stored.length);
  if (stored.length < 4 || view.getUint32(0, true) !== 1) return undefined;
  const entries: { tag: number; rights: number; id: number }[] = [];
  for (let at = 4; at < stored.length;) {
    if (at + 4 > stored.length) return undefined;
    const [tag, rights] = [view.getUint16(at, true), view.getUint16(at + 2, true)];
    const isNamed = NAMED.includes(tag);
    if (isNamed && at + 8 > stored.length) return undefined;
    entries.push({ tag, rights, id: isNamed ? view.getUint32(at + 4, true) : NOBODY });
    at += isNamed ? 8 : 4;
  }
  const out = new DataView(new ArrayBuffer(4 + 8 * entries.length));
  out.setUint32(0, 2, true);
  entries.forEach(({ tag, rights, id }, i) => {
    out.setUint16(4 + 8 * i, tag, true);
    out.setUint16(6 + 8 * i, rights, true);
    out.setUint32(8 + 8 * i, id, true);
  });
  return new Uint8Array(out.buffer);
}

/** Reads attributes into a map by their whole names. Throws a BrokenChain where they do not hold together. */
async function entries(
  inodes: Inodes,
  bytes: Uint8Array,
  first: number,
  base: number,
  into: Map<string, Uint8Array>,
): Promise<void> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  for (let at = first; at + 4 <= bytes.length && view.getUint32(at, true) !== 0;) {
    if (at + ENTRY_HEAD > bytes.length) throw new BrokenChain('its attributes do not hold together');
    const [length, index] = [view.getUint8(at), view.getUint8(at + 1)];
    const [offset, elsewhere, size] = [
      view.getUint16(at + 2, true) + base,
      view.getUint32(at + 4, true),
      view.getUint32(at + 8, true),
    ];
    const isOutside = elsewhere === 0 && size > 0 && offset + size > bytes.length;
    if (at + ENTRY_HEAD + length > bytes.length || isOutside || size > LARGEST)
      throw new BrokenChain('its attributes do not hold together');
    const name =
      (ATTRIBUTE_PREFIXES[index] ?? `${index}.`) + String.fromCharCode(...bytes.subarray(at + 16, at + 16 + length));
    const value = elsewhere === 0 ? bytes.slice(offset, offset + size) : await valueOf(inodes, elsewhere, size);
    const whole = ACCESS_LISTS.includes(index) ? accessList(value) : value;
    if (!whole) throw new BrokenChain('its access list does not hold together');
    if (name !== DATA) into.set(name, whole);
    at += ENTRY_HEAD + 4 * Math.ceil(length / 4);
  }
}

async function valueOf(inodes: Inodes, number: number, size: number): Promise<Uint8Array> {
  const { bytes, trouble } = await readPieces(inodes.source, inodes.pieces(await inodes.at(number)));
  if (trouble !== undefined || bytes.length < size)
    throw new BrokenChain(trouble ?? 'a value of its attributes is too short');
  return bytes.subarray(0, size);
}

/** All attributes of an inode, access lists in the kernel's form. Throws a BrokenChain where they do not hold together. */
export async function attributesOf(
  inodes: Inodes,
  { bytes, attributes: block }: ExtInode,
): Promise<Map<string, Uint8Array>> {
  const found = new Map<string, Uint8Array>();
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  if (bytes.length > SHORT_INODE_BYTES + 4) {
    const head = SHORT_INODE_BYTES + view.getUint16(FURTHER_INODE.fields.extra.offset, true);
    if (head + 4 <= bytes.length && view.getUint32(head, true) === ATTRIBUTES_MAGIC)
      await entries(inodes, bytes, head + 4, head + 4, found);
  }
  if (block === 0) return found;
  const { head } = inodes;
  if (block >= head.blocks) throw new BrokenChain('its attributes lie outside of the volume');
  const own = new Uint8Array(await inodes.read(block * head.block, head.block));
  if (new DataView(own.buffer).getUint32(0, true) !== ATTRIBUTES_MAGIC)
    throw new BrokenChain('its attributes have no mark');
  await entries(inodes, own, BLOCK_HEAD, 0, found);
  return found;
}
