/**
 * A checker of ext volumes, written from the description of the format and apart from what makes them:
 * structures first, then references, then what they leave free.
 */
import type { BlockSource } from '../../../bytes/blocks';
import { textOfBytes } from '../../../bytes/utf8';
import { FILE_TYPE, GROUP_FLAG, INODE } from '../numbers';
import { AttributeReader, type FoundAttribute } from './attributes';
import { Claims } from './claims';
import { type Fault, Faults, FILES_NAMED } from './faults';
import { FolderReader } from './folders';
import { type FoundInode, InodeReader, isEncrypted, isInline, isValue } from './inodes';
import { checkJournal, checkSpare } from './system';
import { ownInodes } from '../read/head';
import type { Group } from '../group';
import { type CheckedVolume, readGroups, readSuperblock } from './volume';

/** An entry as the checker read it. */
export interface CheckedEntry {
  readonly path: string;
  readonly inode: FoundInode;
  readonly attributes: readonly FoundAttribute[];
  /** Target of a link. */
  readonly target: Uint8Array | undefined;
}

/** What a check found: faults, and everything that has a name. */
export interface CheckedExt {
  readonly faults: readonly Fault[];
  readonly volume: CheckedVolume | undefined;
  readonly entries: readonly CheckedEntry[];
  /** Inodes that faults touch, as far as they are known; each with at least one fault. */
  readonly touched: ReadonlySet<number>;
}

export interface CheckOptions {
  /** Called now and then; throws to stop. */
  readonly checkpoint?: (() => Promise<void> | void) | undefined;
  /** How far it is, in bytes of the volume; a total of 0 where that is not known. */
  readonly onProgress?: ((phase: string, done: number, total: number) => void) | undefined;
}

/** What a directory says of each kind. */
const TYPES = new Map<number, number>(Object.values(FILE_TYPE).map(({ mode, entry }) => [mode, entry]));
/** Inodes between two checkpoints. */
const STEP = 256;

class Check {
  readonly entries: CheckedEntry[] = [];
  private readonly claims: Claims;
  private readonly inodes = new Map<number, FoundInode>();
  private readonly names = new Map<number, number>();
  private readonly reader: InodeReader;
  private readonly attributes: AttributeReader;
  private readonly found = new Map<number, FoundAttribute[]>();
  readonly touched = new Set<number>();

  constructor(
    private readonly volume: CheckedVolume,
    private readonly groups: readonly Group[],
    private readonly faults: Faults,
    private readonly options: CheckOptions,
  ) {
    this.claims = new Claims(volume, faults);
    this.reader = new InodeReader(volume, groups, this.claims, faults);
    this.attributes = new AttributeReader(volume, this.claims, faults);
  }

  async run(): Promise<void> {
    this.claimStructures();
    const used = await this.readInodes();
    await this.system();
    await this.walk();
    this.attributes.checkShared();
    this.checkNames();
    await this.checkBitmaps(used);
    this.nameFiles();
  }

  /** Says of each fault which files it touches. */
  private nameFiles(): void {
    const paths = new Map<number, string[]>();
    for (const { path, inode } of this.entries) {
      const own = paths.get(inode.number);
      if (!own) paths.set(inode.number, [path === '' ? '/' : path]);
      else if (own.length < FILES_NAMED) own.push(path);
    }
    const byPath = new Map(this.entries.map(({ path, inode }) => [path, inode.number]));
    const touched = new Map<Fault, Set<string>>();
    const touch = (fault: Fault, inode: number) => {
      this.touched.add(inode);
      const files = touched.get(fault) ?? new Set<string>();
      for (const path of paths.get(inode) ?? []) if (files.size < FILES_NAMED) files.add(path);
      if (files.size > 0) touched.set(fault, files);
    };
    for (const fault of this.faults.all) {
      const [, number] = /^inode (\d+)/.exec(fault.where) ?? [];
      if (number !== undefined) touch(fault, Number(number));
      const [, block] = /^attributes in block (\d+)/.exec(fault.where) ?? [];
      if (block !== undefined)
        for (const one of this.inodes.values()) if (one.attributes === Number(block)) touch(fault, one.number);
      const [, path] = /^“(.*)”/s.exec(fault.where) ?? (fault.where.startsWith('the root directory') ? ['', ''] : []);
      const inode = path === undefined ? undefined : byPath.get(path);
      if (inode !== undefined) this.touched.add(inode);
    }
    const { contested } = this.claims;
    if (contested.size > 0)
      for (const { number, runs } of this.inodes.values())
        for (const { physical, count } of runs)
          for (const [block, fault] of contested)
            if (block >= physical && block < physical + count) touch(fault, number);
    for (const [fault, files] of touched) fault.files = [...files];
  }

  private claimStructures(): void {
    const { volume, groups, claims, faults } = this;
    const { superblock, tableBlocks } = volume;
    for (const place of volume.metaPlaces) claims.take(place, 1, 'group descriptors');
    if (volume.has('mmp')) claims.take(Number(superblock.mmpBlock), 1, 'the signs of a mount');
    for (const group of volume.copies) {
      // Groups whose descriptors lie with them have those alone.
      const isMeta = group >= volume.head.firstMetaGroup * (volume.block / volume.descriptorBytes);
      const blocks = 1 + (isMeta ? 0 : tableBlocks + superblock.reservedTable);
      const start = volume.groupStart(group);
      claims.take(start, Math.min(blocks, volume.blocks - start), `the superblock of group ${group}`);
    }
    const table = (superblock.inodesPerGroup * volume.inodeSize) / volume.block;
    const isFlex = volume.has('flex_bg');
    groups.forEach(({ blockBitmap, inodeBitmap, inodeTable }, i) => {
      const places = [
        ['group/block bitmap', blockBitmap, 1],
        ['group/inode bitmap', inodeBitmap, 1],
        ['group/inode table', inodeTable, table],
      ] as const;
      for (const [code, at, count] of places) {
        const isOwn = isFlex || (volume.isInside(at) && volume.groupOf(at) === i);
        if (!volume.isInside(at) || at + count > volume.blocks || !isOwn || !claims.take(at, count, `group ${i}`))
          faults.add(code, `group ${i}`, `block ${at}`);
      }
    });
  }

  private isUsable(group: number): boolean {
    const { inodeTable, inodeBitmap, blockBitmap } = this.groups[group]!;
    const table = (this.volume.superblock.inodesPerGroup * this.volume.inodeSize) / this.volume.block;
    return (
      [inodeBitmap, blockBitmap, inodeTable].every((block) => this.volume.isInside(block)) &&
      inodeTable + table <= this.volume.blocks
    );
  }

  /** Reads all inodes that a bitmap says are in use; gives the bitmaps. */
  private async readInodes(): Promise<(Uint8Array | undefined)[]> {
    const { volume, groups, faults } = this;
    const { inodesPerGroup } = volume.superblock;
    const bitmaps: (Uint8Array | undefined)[] = [];
    let read = 0;
    for (const [g, group] of groups.entries()) {
      this.progress('reading inodes', g);
      if ((group.flags & GROUP_FLAG.inodesUnset) !== 0 || !this.isUsable(g)) {
        bitmaps.push(undefined);
        continue;
      }
      const bits = await volume.blockAt(group.inodeBitmap);
      bitmaps.push(bits);
      if (volume.isSummed) {
        const sum = volume.sum([bits.subarray(0, inodesPerGroup / 8)]);
        faults.same('bitmap/inode checksum', `group ${g}`, group.inodeSum, volume.isLong ? sum : sum & 0xffff);
      }
      for (let i = 0; i < inodesPerGroup; i++) {
        if ((bits[i >> 3]! & (1 << (i & 7))) === 0) continue;
        const number = g * inodesPerGroup + i + 1;
        const inode = await this.reader.read(number);
        // One that says nothing is not in use, whatever its bit says.
        if (inode.kind === 0 && inode.links === 0) continue;
        this.inodes.set(number, inode);
        await this.reader.look(inode);
        const attributes = await this.attributes.of(inode, `inode ${number}`);
        if (isInline(inode)) inode.rest = attributes.find(({ name }) => name === 'system.data')?.value;
        this.found.set(
          number,
          attributes.filter(({ name }) => !isInline(inode) || name !== 'system.data'),
        );
        if (++read % STEP === 0) await this.options.checkpoint?.();
      }
    }
    return bitmaps;
  }

  private progress(phase: string, group: number): void {
    const { block, superblock, blocks } = this.volume;
    this.options.onProgress?.(phase, group * superblock.blocksPerGroup * block, blocks * block);
  }

  private async system(): Promise<void> {
    const { volume, faults, claims } = this;
    const { superblock } = volume;
    // A journal may lie on another device.
    if (volume.has('has_journal') && (superblock.journalInode !== 0 || superblock.journalDevice === 0)) {
      const journal = this.inodes.get(superblock.journalInode);
      if (journal) await checkJournal(volume, journal, faults);
      else faults.add('journal/missing', 'the journal', `inode ${superblock.journalInode} is not in use`);
    }
    if (!volume.has('resize_inode') || superblock.reservedTable === 0) return;
    const spare = this.inodes.get(INODE.resize);
    if (spare) await checkSpare(volume, spare, claims, faults);
    else faults.add('spare descriptors/table', 'the blocks kept for group descriptors', 'their inode is not in use');
  }

  /** Goes through the folders from the root on. */
  private async walk(): Promise<void> {
    const { faults } = this;
    const root = this.inodes.get(INODE.root);
    if (root?.kind !== FILE_TYPE.folder.mode) {
      faults.add('inode/root', `inode ${INODE.root}`, 'it is no folder');
      return;
    }
    const reader = new FolderReader(this.volume, faults);
    const waiting: { inode: FoundInode; path: string; parent: number }[] = [
      { inode: root, path: '', parent: INODE.root },
    ];
    const seen = new Set([INODE.root as number]);
    await this.enter('', root);
    this.options.onProgress?.('following folders', 0, 0);
    for (const { inode, path, parent } of waiting) {
      await this.options.checkpoint?.();
      const where = path === '' ? 'the root directory' : `“${path}”`;
      const there = new Set<string>();
      const [dot, dotDot, ...names] = await reader.names(inode, where);
      if (!dot || textOfBytes(dot.name) !== '.' || dot.inode !== inode.number || dot.block !== 0)
        faults.add('folder/dot', where, 'it does not begin with itself');
      if (!dotDot || textOfBytes(dotDot.name) !== '..' || dotDot.inode !== parent)
        faults.add('folder/dot dot', where, `it does not lead to inode ${parent}`);
      for (const one of [dot, dotDot]) if (one) this.count(one.inode);
      for (const { name, inode: number, type } of names) {
        const text = textOfBytes(name);
        const below = path === '' ? text : `${path}/${text}`;
        const isPlain = !isEncrypted(inode) && (name.includes(0x2f) || name.includes(0));
        if (name.length === 0 || isPlain || text === '.' || text === '..')
          faults.add('folder/name', where, `“${text}”`);
        if (there.has(text)) faults.add('folder/name twice', where, `“${text}”`);
        there.add(text);
        const child = this.inodes.get(number);
        if (!child || number < this.volume.firstInode) {
          faults.add('folder/inode', `“${below}”`, `inode ${number} is not in use`);
          continue;
        }
        if (this.volume.has('filetype') && type !== TYPES.get(child.kind))
          faults.add('folder/kind', `“${below}”`, `kind ${type}, and the inode is of ${TYPES.get(child.kind)}`);
        this.count(number);
        if (child.kind === FILE_TYPE.folder.mode && seen.has(number)) {
          faults.add('folder/second name', `“${below}”`, `inode ${number} is a folder with another name`);
          continue;
        }
        await this.enter(below, child);
        if (child.kind !== FILE_TYPE.folder.mode) continue;
        seen.add(number);
        waiting.push({ inode: child, path: below, parent: inode.number });
      }
      if (path === '' && !there.has('lost+found')) faults.add('lost+found/missing', where, 'there is no lost+found');
    }
  }

  private count(inode: number): void {
    this.names.set(inode, (this.names.get(inode) ?? 0) + 1);
  }

  private async enter(path: string, inode: FoundInode): Promise<void> {
    const target = inode.kind === FILE_TYPE.link.mode ? await this.targetOf(inode, path) : undefined;
    this.entries.push({ path, inode, attributes: this.found.get(inode.number) ?? [], target });
  }

  private async targetOf(inode: FoundInode, path: string): Promise<Uint8Array> {
    const { faults, volume } = this;
    const [run] = inode.runs;
    if (isEncrypted(inode)) return new Uint8Array(0);
    const inside = inode.rest ? Uint8Array.of(...inode.map, ...inode.rest, 0) : inode.map;
    const bytes = run ? await volume.blockAt(run.physical) : inside;
    if (inode.size === 0 || inode.size >= bytes.length) {
      faults.add('link/length', `“${path}”`, `${inode.size} bytes`);
      return new Uint8Array(0);
    }
    const target = bytes.slice(0, inode.size);
    if (target.includes(0)) faults.add('link/target', `“${path}”`, 'a zero in it');
    return target;
  }

  private checkNames(): void {
    const { faults, inodes, names, volume } = this;
    const { journal, orphans, quotas } = ownInodes(volume.head);
    const own = [journal, orphans, ...quotas];
    const isOwn = (number: number) => (number < volume.firstInode && number !== INODE.root) || own.includes(number);
    for (const [number, inode] of inodes) {
      const { links, kind } = inode;
      // What only the file system itself uses has no name.
      if (isOwn(number) || isValue(inode)) continue;
      const found = names.get(number) ?? 0;
      const isMany = kind === FILE_TYPE.folder.mode && links === 1 && volume.has('dir_nlink') && found >= 65_000;
      if (found === 0 || (kind === FILE_TYPE.folder.mode && found === 1))
        faults.add('inode/without a name', `inode ${number}`, 'nothing leads to it');
      else if (!isMany) faults.same('inode/names', `inode ${number}`, links, found);
    }
  }

  /** Inodes in use, by their group. */
  private byGroup(): ReadonlyMap<number, readonly FoundInode[]> {
    const all = new Map<number, FoundInode[]>();
    for (const inode of this.inodes.values()) {
      const group = Math.floor((inode.number - 1) / this.volume.superblock.inodesPerGroup);
      const own = all.get(group);
      if (own) own.push(inode);
      else all.set(group, [inode]);
    }
    return all;
  }

  private async checkBitmaps(inodeBitmaps: readonly (Uint8Array | undefined)[]): Promise<void> {
    const { volume, groups, faults, claims } = this;
    const { superblock, block } = volume;
    const { inodesPerGroup, blocksPerGroup } = superblock;
    const { firstInode } = volume;
    const isChecked = volume.isSummed || volume.has('gdt_csum');
    let [freeBlocks, freeInodes] = [0, 0];
    const byGroup = this.byGroup();
    for (const [g, group] of groups.entries()) {
      await this.options.checkpoint?.();
      this.progress('comparing bitmaps', g);
      const where = `group ${g}`;
      const start = volume.groupStart(g);
      const count = Math.min(blocksPerGroup, volume.blocks - start);
      const claimed = claims.bitsOf(g) ?? new Uint8Array(block);
      const isUnset = (group.flags & GROUP_FLAG.blocksUnset) !== 0;
      if (!this.isUsable(g)) continue;
      const bits = isUnset ? claimed : await volume.blockAt(group.blockBitmap);
      if (!isUnset && volume.isSummed) {
        const sum = volume.sum([bits.subarray(0, blocksPerGroup / 8)]);
        faults.same('bitmap/block checksum', where, group.blockSum, volume.isLong ? sum : sum & 0xffff);
      }
      const free = this.compare(bits, claimed, count, 'block', where, () => false);
      if (!isUnset) this.checkPadding(bits, count, 8 * block, 'bitmap/block padding', where);
      faults.same('group/free blocks', where, group.freeBlocks, free);
      freeBlocks += free;

      const own = inodeBitmaps[g];
      const used = new Uint8Array(block);
      let [folders, last] = [0, 0];
      for (const inode of byGroup.get(g) ?? []) {
        const i = (inode.number - 1) % inodesPerGroup;
        used[i >> 3] = used[i >> 3]! | (1 << (i & 7));
        if (inode.kind === FILE_TYPE.folder.mode) folders += 1;
        last = Math.max(last, i + 1);
      }
      const isReserved = (i: number) => g * inodesPerGroup + i + 1 < firstInode;
      let unused = inodesPerGroup;
      if (own) {
        unused = this.compare(own, used, inodesPerGroup, 'inode', where, isReserved);
        this.checkPadding(own, inodesPerGroup, 8 * block, 'bitmap/inode padding', where);
      }
      faults.same('group/free inodes', where, group.freeInodes, unused);
      faults.same('group/folders', where, group.folders, folders);
      if (isChecked && last > inodesPerGroup - group.unused)
        faults.add(
          'group/unused inodes',
          where,
          `${group.unused} at the end were never used, and inode ${last} of the group is`,
        );
      freeInodes += unused;
    }
    const said = superblock.freeBlocksLow + (volume.isLong ? superblock.freeBlocksHigh * 2 ** 32 : 0);
    faults.same('superblock/free blocks', 'the superblock', said, freeBlocks);
    faults.same('superblock/free inodes', 'the superblock', superblock.freeInodes, freeInodes);
  }

  /** Compares a bitmap with what is in use; gives how many are free. */
  private compare(
    bits: Uint8Array,
    used: Uint8Array,
    count: number,
    what: 'block' | 'inode',
    where: string,
    isExempt: (i: number) => boolean,
  ): number {
    let free = 0;
    let [lost, missing] = [0, 0];
    for (let at = 0; at < count; at += 8) {
      const [a, b] = [bits[at >> 3]!, used[at >> 3]!];
      if (a === 0 && b === 0 && at + 8 <= count) {
        free += 8;
        continue;
      }
      if (a === 0xff && b === 0xff && at + 8 <= count) continue;
      for (let i = at; i < Math.min(at + 8, count); i++) {
        const mask = 1 << (i & 7);
        const [isSet, isUsed] = [(a & mask) !== 0, (b & mask) !== 0];
        if (!isSet) free += 1;
        if (isSet && !isUsed && !isExempt(i)) lost += 1;
        if (!isSet && isUsed) missing += 1;
      }
    }
    if (lost > 0) this.faults.add(`bitmap/${what} not free`, where, `${lost} are marked as in use that nothing uses`);
    if (missing > 0) this.faults.add(`bitmap/${what} free`, where, `${missing} are marked as free that are in use`);
    return free;
  }

  private checkPadding(
    bits: Uint8Array,
    from: number,
    to: number,
    code: 'bitmap/block padding' | 'bitmap/inode padding',
    where: string,
  ): void {
    for (let i = from; i < to; i++) {
      if ((i & 7) === 0 && bits[i >> 3] === 0xff && i + 8 <= to) i += 7;
      else if ((bits[i >> 3]! & (1 << (i & 7))) === 0) {
        this.faults.add(code, where, `bit ${i}, behind the last one, is not set`);
        return;
      }
    }
  }
}

/** Checks the ext volume that begins `base` bytes into the source and has `available` bytes of room. */
export async function checkExt(
  source: BlockSource,
  base: number,
  available: number,
  options: CheckOptions = {},
): Promise<CheckedExt> {
  const faults = new Faults();
  const volume = await readSuperblock(source, base, available, faults);
  if (!volume) return { faults: faults.all, volume, entries: [], touched: new Set() };
  const check = new Check(volume, await readGroups(volume, faults), faults, options);
  await check.run();
  return { faults: faults.all, volume, entries: check.entries, touched: check.touched };
}
