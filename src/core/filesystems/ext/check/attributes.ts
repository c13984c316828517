/** Extended attributes as a check reads them: in the inode, and in a block of their own. */
import { ATTRIBUTE_PREFIXES, ATTRIBUTES_MAGIC } from '../numbers';
import type { Claims } from './claims';
import type { Faults } from './faults';
import type { FoundInode } from './inodes';
import type { CheckedVolume } from './volume';

/** What names begin with, and nothing. */
const PREFIXES: Readonly<Record<number, string>> = { ...ATTRIBUTE_PREFIXES, 0: '' };

export interface FoundAttribute {
  readonly name: string;
  readonly value: Uint8Array;
}

/** Hash of an entry in a block. */
function hashOf(name: Uint8Array, value: Uint8Array): number {
  let hash = 0;
  for (const byte of name) hash = ((hash << 5) ^ (hash >>> 27) ^ byte) >>> 0;
  for (let at = 0; at < value.length; at += 4) {
    const word = [0, 1, 2, 3].reduce((sum, i) => (sum | ((value[at + i] ?? 0) << (8 * i))) >>> 0, 0);
    hash = ((hash << 16) ^ (hash >>> 16) ^ word) >>> 0;
  }
  return hash;
}

export class AttributeReader {
  /** How many inodes share a block, by its number. */
  private readonly shared = new Map<number, { found: number; said: number; attributes: FoundAttribute[] }>();

  constructor(
    private readonly volume: CheckedVolume,
    private readonly claims: Claims,
    private readonly faults: Faults,
  ) {}

  /** All attributes of an inode. */
  async of(inode: FoundInode, where: string): Promise<FoundAttribute[]> {
    const { bytes, extra, attributes } = inode;
    const found: FoundAttribute[] = [];
    const at = 128 + extra;
    if (bytes.length > 128 && at % 4 === 0 && at + 4 <= bytes.length) {
      const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
      if (view.getUint32(at, true) === ATTRIBUTES_MAGIC)
        found.push(...this.entries(bytes, at + 4, at + 4, false, where));
    }
    if (attributes > 0) found.push(...(await this.inBlock(attributes, where)));
    return found;
  }

  private async inBlock(block: number, where: string): Promise<FoundAttribute[]> {
    const before = this.shared.get(block);
    if (before) {
      before.found += 1;
      return before.attributes;
    }
    if (!this.claims.take(block, 1, where)) return [];
    const bytes = await this.volume.blockAt(block);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    const at = `${where}, attributes in block ${block}`;
    if (view.getUint32(0, true) !== ATTRIBUTES_MAGIC || view.getUint32(8, true) !== 1) {
      this.faults.add('attributes/magic', at, 'the mark is missing');
      return [];
    }
    if (this.volume.isSummed) {
      const number = new Uint8Array(8);
      new DataView(number.buffer).setBigUint64(0, BigInt(block), true);
      const parts = [number, bytes.subarray(0, 0x10), new Uint8Array(4), bytes.subarray(0x14)];
      this.faults.same('attributes/checksum', at, view.getUint32(0x10, true), this.volume.sum(parts));
    }
    const attributes = this.entries(bytes, 32, 0, true, at);
    this.shared.set(block, { found: 1, said: view.getUint32(4, true), attributes });
    return attributes;
  }

  private entries(bytes: Uint8Array, first: number, base: number, isBlock: boolean, where: string): FoundAttribute[] {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    const found: FoundAttribute[] = [];
    let [at, before, whole] = [first, '', 0];
    while (at + 4 <= bytes.length && view.getUint32(at, true) !== 0) {
      const [nameLength, index] = [bytes[at]!, bytes[at + 1]!];
      const end = at + 4 * Math.ceil((16 + nameLength) / 4);
      if (at + 16 + nameLength > bytes.length || end > bytes.length) {
        this.faults.add('attributes/entry', where, `an entry at ${at} runs over the end`);
        return found;
      }
      const [offset, size] = [view.getUint16(at + 2, true) + base, view.getUint32(at + 8, true)];
      const elsewhere = view.getUint32(at + 4, true);
      const isElsewhere = elsewhere !== 0 && this.volume.has('ea_inode');
      const isHere = elsewhere === 0 && (size === 0 || (offset >= end && offset + size <= bytes.length));
      if (!isHere && !isElsewhere) {
        this.faults.add('attributes/entry', where, `a value of ${size} bytes at ${offset}`);
        return found;
      }
      const prefix = PREFIXES[index];
      const name = bytes.subarray(at + 16, at + 16 + nameLength);
      const value = isElsewhere ? new Uint8Array(0) : bytes.slice(offset, offset + size);
      if (prefix === undefined) this.faults.add('attributes/name', where, `kind ${index}`);
      const own = hashOf(name, value);
      const said = view.getUint32(at + 12, true);
      if (!isElsewhere && said !== own && (isBlock || said !== 0))
        this.faults.add('attributes/hash', where, `of the entry at ${at}`);
      whole = ((whole << 16) ^ (whole >>> 16) ^ said) >>> 0;
      const text = String.fromCharCode(...name);
      const key = `${String(index).padStart(3)} ${String(nameLength).padStart(3)} ${text}`;
      if (isBlock && key <= before) this.faults.add('attributes/order', where, `“${text}” comes late`);
      before = key;
      found.push({ name: (prefix ?? '') + text, value });
      at = end;
    }
    if (isBlock && view.getUint32(12, true) !== whole && view.getUint32(12, true) !== 0)
      this.faults.add('attributes/hash', where, 'of the block');
    return found;
  }

  /** Compares how many inodes share a block with what it says itself. */
  checkShared(): void {
    for (const [block, { found, said }] of this.shared)
      this.faults.same('attributes/references', `attributes in block ${block}`, said, found);
  }
}
