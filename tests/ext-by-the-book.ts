/**
 * A second reader of ext2, ext3 and ext4, small and independent: written for the tests from the kernel's documentation
 * ("ext4 Data Structures and Algorithms") on a DataView and nothing of the program. It reads whole volumes in memory, with
 * extents, block maps, linear folders and attributes, and counts for itself which blocks and inodes are in use. What it cannot
 * read (bytes in inodes, files of attributes) it says by throwing.
 */
import { createHash } from 'node:crypto';
import { number32, sum16, sumFrom, sumOfFolderBlock } from './sums-by-the-book';
import { PREFIXES, TYPES } from './words-by-the-book';

const [INCOMPAT_META_BG, INCOMPAT_64BIT, INCOMPAT_CSUM_SEED, RO_GDT_CSUM, RO_METADATA_CSUM, RO_SPARSE_SUPER] = [
  0x10, 0x80, 0x2000, 0x10, 0x400, 0x1,
];
const [COMPAT_SPARSE_SUPER2] = [0x200];
const [INODE_UNINIT, BLOCK_UNINIT] = [1, 2];
const [INDEX_FL, EXTENTS_FL] = [0x1000, 0x80000];
const INLINE_DATA_FL = 0x10000000;

/** Content of one file or folder: block of the volume by block of the file, with what is not written yet left out. */
interface Mapped {
  readonly blocks: ReadonlyMap<number, number>;
}

interface Found {
  readonly path: string;
  readonly inode: number;
}

const latin = (bytes: Uint8Array) => Buffer.from(bytes).toString('latin1');

/** A form that this reader does not know. */
export class NotInTheBook extends Error {}

/** A volume as the book says that it is read. What is wrong is gathered in `wrong`. */
export class BookExt {
  readonly wrong: string[] = [];
  readonly found: Found[] = [];
  readonly block: number;
  readonly blocks: number;
  readonly inodeCount: number;
  private readonly view: DataView;
  private readonly sb: (at: number, length?: 1 | 2 | 4) => number;
  private readonly groups: number;
  private readonly descriptor: number;
  private readonly seed: number;
  private readonly used = new Set<number>();
  private readonly usedInodes = new Set<number>();

  constructor(private readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    this.sb = (at, length = 4) =>
      length === 4
        ? this.view.getUint32(1024 + at, true)
        : length === 2
          ? this.view.getUint16(1024 + at, true)
          : bytes[1024 + at]!;
    if (this.sb(0x38, 2) !== 0xef53) throw new Error('no ext');
    this.block = 1024 << this.sb(0x18);
    this.blocks = this.sb(0x4) + (this.has64 ? this.sb(0x150) * 2 ** 32 : 0);
    this.inodeCount = this.sb(0);
    this.groups = Math.ceil((this.blocks - this.sb(0x14)) / this.sb(0x20));
    this.descriptor = this.has64 ? this.sb(0xfe, 2) : 32;
    const uuid = bytes.subarray(1024 + 0x68, 1024 + 0x78);
    this.seed = (this.sb(0x60) & INCOMPAT_CSUM_SEED) !== 0 ? this.sb(0x270) : sumFrom(0xffffffff, uuid);
    this.read();
  }

  private get has64(): boolean {
    return (this.sb(0x60) & INCOMPAT_64BIT) !== 0;
  }

  private get hasSums(): boolean {
    return (this.sb(0x64) & RO_METADATA_CSUM) !== 0;
  }

  private check(what: string, is: number, meant: number): void {
    if (is !== meant) this.wrong.push(`${what}: ${is}, and should be ${meant}`);
  }

  private take(what: string, from: number, count = 1): void {
    for (let one = from; one < from + count; one++) {
      if (one >= this.blocks || one < this.sb(0x14)) this.wrong.push(`${what}: block ${one} is outside`);
      if (this.used.has(one)) this.wrong.push(`${what}: block ${one} is taken twice`);
      this.used.add(one);
    }
  }

  private blockAt(number: number): Uint8Array {
    return this.bytes.subarray(number * this.block, (number + 1) * this.block);
  }

  private firstOf(group: number): number {
    return this.sb(0x14) + group * this.sb(0x20);
  }

  private hasCopy(group: number): boolean {
    if (group === 0) return true;
    if ((this.sb(0x5c) & COMPAT_SPARSE_SUPER2) !== 0) return [this.sb(0x24c), this.sb(0x250)].includes(group);
    if ((this.sb(0x64) & RO_SPARSE_SUPER) === 0 || group === 1) return true;
    return [3, 5, 7].some((base) => {
      let power = base;
      while (power < group) power *= base;
      return power === group;
    });
  }

  private get perBlock(): number {
    return this.block / this.descriptor;
  }

  /** Where the descriptor of a group begins, in bytes. */
  private descriptorAt(group: number): number {
    const inBlock = Math.floor(group / this.perBlock);
    const within = (group % this.perBlock) * this.descriptor;
    const isMeta = (this.sb(0x60) & INCOMPAT_META_BG) !== 0 && inBlock >= this.sb(0x104);
    if (!isMeta) return (this.sb(0x14) + 1 + inBlock) * this.block + within;
    const first = inBlock * this.perBlock;
    return (this.firstOf(first) + (this.hasCopy(first) ? 1 : 0)) * this.block + within;
  }

  private described(group: number) {
    const at = this.descriptorAt(group);
    const low = (offset: number) => this.view.getUint32(at + offset, true);
    const half = (offset: number) => this.view.getUint16(at + offset, true);
    const isLong = this.descriptor >= 64;
    const wide = (offset: number, above: number) => low(offset) + (isLong ? low(above) * 2 ** 32 : 0);
    const halves = (offset: number, above: number) => half(offset) + (isLong ? half(above) * 65536 : 0);
    return {
      blockBitmap: wide(0, 0x20),
      inodeBitmap: wide(4, 0x24),
      table: wide(8, 0x28),
      freeBlocks: halves(0xc, 0x2c),
      freeInodes: halves(0xe, 0x2e),
      folders: halves(0x10, 0x30),
      flags: half(0x12),
      blockSum: halves(0x18, 0x38),
      inodeSum: halves(0x1a, 0x3a),
      sum: half(0x1e),
      bytes: this.bytes.subarray(at, at + this.descriptor),
    };
  }

  private read(): void {
    if (this.hasSums) {
      const whole = this.bytes.subarray(1024, 1024 + 0x3fc);
      this.check('sum of the superblock', this.sb(0x3fc), sumFrom(0xffffffff, whole));
    }
    this.takeStructures();
    for (const number of [7, 8]) this.walkInode(`<${number}>`, number);
    for (let number = 1; number < this.sb(0x54); number++) this.usedInodes.add(number);
    this.walkFolder('', 2);
    this.audit();
  }

  private takeStructures(): void {
    const [spare, isMeta] = [this.sb(0xce, 2), (this.sb(0x60) & INCOMPAT_META_BG) !== 0];
    const tables = Math.ceil((this.sb(0x28) * this.inodeSize) / this.block);
    const table = Math.ceil(this.groups / this.perBlock);
    for (let group = 0; group < this.groups; group++) {
      const first = this.firstOf(group);
      const copy = this.hasCopy(group);
      if (copy) this.take(`superblock of group ${group}`, first);
      if (isMeta) {
        const place = group % this.perBlock;
        if (place <= 1 || place === this.perBlock - 1) this.take('descriptors of a meta group', first + (copy ? 1 : 0));
      } else if (copy) this.take('descriptors', first + 1, table + spare);
      const { blockBitmap, inodeBitmap, table: inodes } = this.described(group);
      this.take('block bitmap', blockBitmap);
      this.take('inode bitmap', inodeBitmap);
      this.take('inode table', inodes, tables);
    }
  }

  private get inodeSize(): number {
    return this.sb(0x58, 2);
  }

  private inodeAt(number: number): number {
    const [group, within] = [Math.floor((number - 1) / this.sb(0x28)), (number - 1) % this.sb(0x28)];
    return this.described(group).table * this.block + within * this.inodeSize;
  }

  /** Fields of an inode. */
  private fields(number: number) {
    const at = this.inodeAt(number);
    const low = (offset: number) => this.view.getUint32(at + offset, true);
    const half = (offset: number) => this.view.getUint16(at + offset, true);
    const extra = this.inodeSize > 128 ? half(0x80) : 0;
    const mode = half(0);
    return {
      at,
      kind: TYPES[mode & 0xf000] ?? '',
      mode: mode & 0xfff,
      user: half(2) + half(0x78) * 65536,
      group: half(0x18) + half(0x7a) * 65536,
      links: half(0x1a),
      size: low(4) + ((mode & 0xf000) === 0x8000 ? low(0x6c) * 2 ** 32 : 0),
      sectors: low(0x1c) + half(0x74) * 2 ** 32,
      flags: low(0x20),
      generation: low(0x64),
      attributes: low(0x68) + half(0x76) * 2 ** 32,
      extra,
      seconds: this.view.getInt32(at + 0x10, true) + (extra >= 12 ? (low(0x88) & 3) * 2 ** 32 : 0),
      nanoseconds: extra >= 12 ? low(0x88) >>> 2 : 0,
      whole: this.bytes.subarray(at, at + this.inodeSize),
    };
  }

  private seedOf(number: number, generation: number): number {
    return sumFrom(this.seed, number32(number), number32(generation));
  }

  /** Takes what an inode has, and checks its own sum; gives where its content lies. */
  private walkInode(path: string, number: number): Mapped {
    const blocks = new Map<number, number>();
    const inode = this.fields(number);
    const { kind, flags, size, generation, extra, whole } = inode;
    if ((flags & INLINE_DATA_FL) !== 0) throw new NotInTheBook(`${path}: bytes in the inode are not read here`);
    if (this.hasSums && (inode.links > 0 || kind !== '')) {
      const own = whole.slice();
      const meant = own[0x7c]! + own[0x7d]! * 256 + (extra >= 4 ? (own[0x82]! + own[0x83]! * 256) * 65536 : 0);
      own.fill(0, 0x7c, 0x7e);
      if (extra >= 4) own.fill(0, 0x82, 0x84);
      const sum = sumFrom(this.seedOf(number, generation), own);
      this.check(`${path}: sum of the inode`, meant, extra >= 4 ? sum : sum & 0xffff);
    }
    let held = 0;
    const tables = (from: number, count = 1) => {
      this.take(path, from, count);
      held += count;
    };
    const isMapped = kind === 'file' || kind === 'folder' || (kind === 'link' && !this.isFast(inode));
    if (isMapped && (flags & EXTENTS_FL) !== 0) {
      this.extents(path, whole.subarray(0x28, 0x64), this.seedOf(number, generation), blocks, tables, false);
    } else if (isMapped) {
      // What the inode of spare descriptors leads to was taken with the descriptors.
      const leaf = number === 7 ? () => undefined : tables;
      this.map(whole.subarray(0x28, 0x64), blocks, leaf, tables, number === 7);
    }
    if (inode.attributes !== 0 && !this.used.has(inode.attributes)) this.take(`${path}, attributes`, inode.attributes);
    if (inode.attributes !== 0) held += 1;
    if (number !== 7) this.check(`${path}: sectors`, inode.sectors, (held * this.block) / 512);
    if (kind === 'folder' && size % this.block !== 0) this.wrong.push(`${path}: a folder of ${size} bytes`);
    return { blocks };
  }

  /** A link that stands in its inode. */
  private isFast({ at, size, attributes }: { at: number; size: number; attributes: number }): boolean {
    const own = this.view.getUint32(at + 0x1c, true) - (attributes === 0 ? 0 : this.block / 512);
    return own === 0 && size < 60;
  }

  private extents(
    path: string,
    node: Uint8Array,
    seed: number,
    blocks: Map<number, number>,
    take: (from: number, count?: number) => void,
    hasTail: boolean,
  ): void {
    const view = new DataView(node.buffer, node.byteOffset, node.byteLength);
    if (view.getUint16(0, true) !== 0xf30a) return void this.wrong.push(`${path}: no extents`);
    const [entries, most, depth] = [view.getUint16(2, true), view.getUint16(4, true), view.getUint16(6, true)];
    if (hasTail && this.hasSums) {
      const tail = 12 + 12 * most;
      this.check(`${path}: sum of extents`, view.getUint32(tail, true), sumFrom(seed, node.subarray(0, tail)));
    }
    for (let i = 0; i < entries; i++) {
      const at = 12 + 12 * i;
      const logical = view.getUint32(at, true);
      if (depth > 0) {
        const next = view.getUint32(at + 4, true) + view.getUint16(at + 8, true) * 2 ** 32;
        take(next);
        this.extents(path, this.blockAt(next), seed, blocks, take, true);
        continue;
      }
      const length = view.getUint16(at + 4, true);
      const start = view.getUint32(at + 8, true) + view.getUint16(at + 6, true) * 2 ** 32;
      const count = length > 32768 ? length - 32768 : length;
      take(start, count);
      if (length <= 32768) for (let j = 0; j < count; j++) blocks.set(logical + j, start + j);
    }
  }

  private map(
    pointers: Uint8Array,
    blocks: Map<number, number>,
    leaf: (at: number) => void,
    table: (at: number) => void,
    isSpare: boolean,
  ): void {
    const per = this.block / 4;
    const below = (at: number, depth: number, logical: number): void => {
      if (at === 0) return;
      // Of spare descriptors the blocks below the first table are descriptors themselves.
      if (depth === 0 || (isSpare && depth === 1)) {
        leaf(at);
        if (depth === 0) blocks.set(logical, at);
        return;
      }
      table(at);
      const view = new DataView(this.bytes.buffer, this.bytes.byteOffset + at * this.block, this.block);
      for (let i = 0; i < per; i++) below(view.getUint32(4 * i, true), depth - 1, logical + i * per ** (depth - 1));
    };
    const view = new DataView(pointers.buffer, pointers.byteOffset, 60);
    const bases = [12, 12 + per, 12 + per + per * per];
    for (let i = 0; i < 12; i++) below(view.getUint32(4 * i, true), 0, i);
    for (let i = 0; i < 3; i++) below(view.getUint32(48 + 4 * i, true), i + 1, bases[i]!);
  }

  /** Content of a file; what is not there is zeros. */
  private content(size: number, { blocks }: Mapped): Uint8Array {
    const out = new Uint8Array(size);
    for (const [logical, physical] of blocks) {
      const at = logical * this.block;
      if (at < size) out.set(this.blockAt(physical).subarray(0, Math.min(this.block, size - at)), at);
    }
    return out;
  }

  private readonly lines = new Map<string, string>();

  private walkFolder(path: string, number: number): void {
    this.entry(path, number);
    const mapped = this.mapped.get(number)!;
    const { size, generation, flags } = this.fields(number);
    for (let i = 0; i < size / this.block; i++) {
      const at = mapped.blocks.get(i);
      if (at === undefined) continue;
      const bytes = this.blockAt(at);
      const view = new DataView(bytes.buffer, bytes.byteOffset, this.block);
      const seed = this.seedOf(number, generation);
      const sum = this.hasSums ? sumOfFolderBlock(bytes, seed, i, (flags & INDEX_FL) !== 0) : undefined;
      if (sum) this.check(`${path}: sum of block ${i}`, ...sum);
      for (let offset = 0; offset < this.block;) {
        const [inode, stored] = [view.getUint32(offset, true), view.getUint16(offset + 4, true)];
        const length = stored === 0 || stored === 65535 ? 65536 : stored;
        if (length < 8) throw new Error(`${path}: a record of ${length} bytes`);
        const name = latin(bytes.subarray(offset + 8, offset + 8 + bytes[offset + 6]!));
        offset += length;
        if (inode === 0 || name === '.' || name === '..') continue;
        const below = path === '' ? name : `${path}/${name}`;
        if (this.fields(inode).kind === 'folder') this.walkFolder(below, inode);
        else this.entry(below, inode);
      }
    }
  }

  private readonly mapped = new Map<number, Mapped>();
  private readonly named = new Map<number, number>();

  /** Takes a name in, and its inode with it where it is the first of its names. */
  private entry(path: string, number: number): void {
    this.found.push({ path, inode: number });
    const mapped = this.mapped.get(number) ?? this.walkInode(path, number);
    this.mapped.set(number, mapped);
    this.named.set(number, (this.named.get(number) ?? 0) + 1);
    this.usedInodes.add(number);
    const inode = this.fields(number);
    const map = (at: number) => this.view.getUint32(inode.at + 0x28 + at, true);
    const more = {
      file: () =>
        `${inode.size} ${createHash('sha256').update(this.content(inode.size, mapped)).digest('hex').slice(0, 16)}`,
      link: () =>
        latin(
          this.isFast(inode)
            ? this.bytes.subarray(inode.at + 0x28, inode.at + 0x28 + inode.size)
            : this.content(inode.size, mapped),
        ),
      device: () =>
        map(0) !== 0
          ? `${map(0) >> 8},${map(0) & 0xff}`
          : `${(map(4) >> 8) & 0xfff},${(map(4) & 0xff) | ((map(4) >>> 12) & 0xfff00)}`,
    };
    const said =
      inode.kind === 'file'
        ? more.file()
        : inode.kind === 'link'
          ? more.link()
          : inode.kind === 'character' || inode.kind === 'block'
            ? more.device()
            : '';
    const { kind, mode, user, group, links, seconds, nanoseconds } = inode;
    const attributes = this.attributes(inode).sort().join();
    this.lines.set(
      path,
      `${kind} ${mode.toString(8)} ${user}:${group} ${links} ${seconds}.${nanoseconds} ${said} ${attributes}`,
    );
  }

  private attributes({ at, extra, attributes }: { at: number; extra: number; attributes: number }): string[] {
    const own = at + 128 + extra;
    const inInode =
      this.inodeSize > 128 && own + 4 < at + this.inodeSize && this.view.getUint32(own, true) === 0xea020000
        ? this.attributesIn(own + 4, own + 4)
        : [];
    return [
      ...inInode,
      ...(attributes === 0 ? [] : this.attributesIn(attributes * this.block + 32, attributes * this.block)),
    ];
  }

  private attributesIn(first: number, base: number): string[] {
    const found: string[] = [];
    for (let at = first; this.view.getUint32(at, true) !== 0;) {
      const [length, index] = [this.bytes[at]!, this.bytes[at + 1]!];
      const [offset, inode, size] = [
        this.view.getUint16(at + 2, true),
        this.view.getUint32(at + 4, true),
        this.view.getUint32(at + 8, true),
      ];
      if (inode !== 0) throw new NotInTheBook('files of attributes are not read here');
      const name = `${PREFIXES[index] ?? `<${index}>`}${latin(this.bytes.subarray(at + 16, at + 16 + length))}`;
      found.push(`${name}=${Buffer.from(this.bytes.subarray(base + offset, base + offset + size)).toString('base64')}`);
      at += 16 + ((length + 3) & ~3);
    }
    return found;
  }

  /** Holds what is in use against bitmaps and counts. */
  private audit(): void {
    let [freeBlocks, freeInodes] = [0, 0];
    for (const [number, names] of this.named) {
      const { kind, links } = this.fields(number);
      if (kind !== 'folder') this.check(`inode ${number}: links`, links, names);
    }
    for (let group = 0; group < this.groups; group++) {
      const one = this.described(group);
      const first = this.firstOf(group);
      const count = Math.min(this.sb(0x20), this.blocks - first);
      const [bits, inodeBits] = [this.blockAt(one.blockBitmap), this.blockAt(one.inodeBitmap)];
      const isSet = (bytes: Uint8Array, i: number) => ((bytes[i >> 3]! >> (i & 7)) & 1) === 1;
      let [free, freeOfInodes, folders] = [0, 0, 0];
      for (let i = 0; i < this.block * 8; i++) {
        const isUsed = i >= count || this.used.has(first + i);
        if (!isUsed) free += 1;
        if ((one.flags & BLOCK_UNINIT) === 0 && isSet(bits, i) !== isUsed)
          this.wrong.push(`group ${group}: bit of block ${first + i} is ${isUsed ? 'clear' : 'set'}`);
      }
      for (let i = 0; i < this.sb(0x28); i++) {
        const number = group * this.sb(0x28) + i + 1;
        const isUsed = this.usedInodes.has(number);
        if (!isUsed) freeOfInodes += 1;
        else if (this.named.has(number) && this.fields(number).kind === 'folder') folders += 1;
        if ((one.flags & INODE_UNINIT) === 0 && isSet(inodeBits, i) !== isUsed)
          this.wrong.push(`group ${group}: bit of inode ${number} is ${isUsed ? 'clear' : 'set'}`);
      }
      this.check(`group ${group}: free blocks`, one.freeBlocks, free);
      this.check(`group ${group}: free inodes`, one.freeInodes, freeOfInodes);
      this.check(`group ${group}: folders`, one.folders, folders);
      [freeBlocks, freeInodes] = [freeBlocks + free, freeInodes + freeOfInodes];
      this.groupSums(group, one, bits, inodeBits);
    }
    this.check('free blocks', this.sb(0xc) + (this.has64 ? this.sb(0x158) * 2 ** 32 : 0), freeBlocks);
    this.check('free inodes', this.sb(0x10), freeInodes);
  }

  private groupSums(
    group: number,
    one: ReturnType<BookExt['described']>,
    bits: Uint8Array,
    inodeBits: Uint8Array,
  ): void {
    const own = one.bytes.slice();
    own.fill(0, 0x1e, 0x20);
    if (this.hasSums) {
      this.check(`group ${group}: sum`, one.sum, sumFrom(this.seed, number32(group), own) & 0xffff);
      const width = this.descriptor >= 64 ? 0xffffffff : 0xffff;
      const sumOf = (bytes: Uint8Array) => (sumFrom(this.seed, bytes) & width) >>> 0;
      // Bitmaps that nobody wrote yet have no sum.
      if ((one.flags & BLOCK_UNINIT) === 0)
        this.check(`group ${group}: sum of blocks`, one.blockSum, sumOf(bits.subarray(0, this.sb(0x20) / 8)));
      if ((one.flags & INODE_UNINIT) === 0)
        this.check(`group ${group}: sum of inodes`, one.inodeSum, sumOf(inodeBits.subarray(0, this.sb(0x28) / 8)));
    } else if ((this.sb(0x64) & RO_GDT_CSUM) !== 0) {
      const uuid = this.bytes.subarray(1024 + 0x68, 1024 + 0x78);
      const meant = sum16(uuid, number32(group), own.subarray(0, 0x1e), own.subarray(0x20));
      this.check(`group ${group}: sum`, one.sum, meant);
    }
  }

  /** A line for each name, ascending; names as single bytes. */
  facts(): string[] {
    return [...this.lines].map(([path, line]) => `${path} ${line}`).sort();
  }

  /** Numbers of inodes by path. */
  numbers(): ReadonlyMap<string, number> {
    return new Map(this.found.map(({ path, inode }) => [path, inode]));
  }
}
