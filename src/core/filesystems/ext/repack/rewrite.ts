/**
 * A repacked volume, range by range: what is made anew comes as bytes, and what files hold as ranges of the medium as it is.
 * What no range covers is free, and the format says nothing of it.
 */
import { crc32c } from '../../../bytes/crc32c';
import type { PlannedExtent } from '../../../bytes/extents';
import { high32, low32 } from '../../../quantity/integers';
import { attributesIn, attributesOfBlock, dataPlace } from '../attribute-places';
import { ATTRIBUTES_SUM_AT } from '../attributes';
import { type Checksums, checksumsOf } from '../checksums';
import { descriptorTable, groupFacts, type Usage } from '../descriptors';
import { hasFeature } from '../feature-bits';
import type { Placed } from '../free-blocks';
import { sealInode } from '../inode';
import { extentTail, writeExtents, writeMap } from '../mapping';
import { FILE_TYPE, INODE, INODE_FLAG, SUPERBLOCK_AT } from '../numbers';
import { type OwnInodes, ownInodes } from '../read/head';
import { SHORT_INODE } from '../records';
import type { Settled } from '../replay/replay';
import { addBitmaps, addCopies, addTable, Ranges, writeSpare } from '../structures';
import { renumberValues } from './attributes';
import { folderBlock, type NumberOf, renumber } from './folders';
import type { Gathered, PackedInode } from './gather';
import { firstFree, featuresOf, lastNumber, type Numbering, type Places } from './place';
import { freeInodesOf, repackedSuperblock } from './superblock';

/** A range of the volume; offsets are bytes from its start, places of what is moved are bytes of the source. */
export interface RepackedRange {
  readonly what: string;
  readonly extent: PlannedExtent;
}

const FOLDER = FILE_TYPE.folder.mode;
/** Bytes that are made at once. */
const WINDOW = 2 ** 20;
/** The sign of a mount that says that nobody has it, where it stands, and its checksum. */
const MMP = { clean: 0xff4d4d50, sequenceAt: 4, sumAt: 1020 } as const;
/** Where a block of attributes says how many inodes have it. */
const ATTRIBUTES_USERS_AT = 4;
/** At the end of each block of the file of what is to be deleted: its mark, and its checksum. */
const ORPHAN_TAIL = { bytes: 8, magic: 0x0b10ca04 } as const;

export class Rewriting {
  private readonly sums: Checksums;
  private readonly own: OwnInodes;
  private readonly numbers = new Map<number, number>();
  /** Inodes by the group that they come to lie in, and by their number there. */
  private readonly byGroup = new Map<number, { at: number; bytes: Uint8Array; isFolder: boolean }[]>();
  private journalMap: Uint8Array | undefined;
  /** How many inodes have each block of attributes. */
  private readonly users = new Map<number, number>();

  constructor(
    private readonly settled: Settled,
    private readonly base: number,
    private readonly gathered: Gathered,
    private readonly places: Places,
    private readonly numbering: Numbering,
  ) {
    const { head, inodes } = gathered;
    this.sums = checksumsOf(head.superblock);
    this.own = ownInodes(head);
    const first = firstFree(head);
    let next = first;
    for (const { attributes } of inodes)
      if (attributes > 0) this.users.set(attributes, (this.users.get(attributes) ?? 0) + 1);
    for (const { number } of inodes) this.numbers.set(number, number < first || numbering === 'kept' ? number : next++);
  }

  readonly numberOf: NumberOf = (inode) => this.numbers.get(inode);

  /** All ranges of the volume, in no order; no two overlap. */
  async *ranges(): AsyncGenerator<RepackedRange> {
    const { gathered, places } = this;
    const { form } = places;
    const attributes = new Set<number>();
    for (const [i, inode] of gathered.inodes.entries()) {
      const { what, made } = await this.inode(inode, places.placed[i]!);
      yield* made.all;
      if (inode.number !== INODE.resize && inode.ranges.length > 0) yield* this.content(inode, places.placed[i]!, what);
      if (inode.attributes === 0 || attributes.has(inode.attributes)) continue;
      attributes.add(inode.attributes);
      yield { what: 'extended attributes', extent: await this.attributeBlock(inode.attributes) };
    }
    if (places.mmp > 0) yield { what: 'signs of a mount', extent: await this.mountSigns() };
    yield* this.tables();
    const ranges = new Ranges(form.block);
    const facts = groupFacts(form, this.usage(), false);
    addBitmaps(ranges, form, facts);
    const { view } = this.settled;
    const raw = new Uint8Array(await view.read(this.base + SUPERBLOCK_AT, 1024));
    const { head } = gathered;
    const journal = gathered.inodes.find(({ number }) => number === this.own.journal);
    const said = {
      places,
      numberOf: (inode: number) => this.numberOf(inode) ?? 0,
      freeInodes: freeInodesOf(places, this.counted(), head),
      journal: journal && this.journalMap && { map: this.journalMap, size: journal.size },
    };
    addCopies(ranges, form, descriptorTable(form, facts, this.sums), (group) =>
      repackedSuperblock(raw, head.blocks, head.isLong, said, group),
    );
    yield* ranges.all;
  }

  /** Inodes that are not reserved. */
  private counted(): number {
    const first = firstFree(this.gathered.head);
    return this.gathered.inodes.filter(({ number }) => number >= first).length;
  }

  private read(at: number, length: number): Promise<Uint8Array> {
    return this.settled.view.read(this.base + at, length);
  }

  /** The seed of what belongs to an inode; undefined where nothing has checksums. */
  private seedOf({ number, bytes }: PackedInode): number | undefined {
    if (!this.sums.isOn) return undefined;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    return this.sums.ofInode(this.numbers.get(number)!, view.getUint32(SHORT_INODE.fields.generation.offset, true));
  }

  /** Makes the inode anew, with its map; gives the blocks of the map. */
  private async inode(inode: PackedInode, placed: Placed): Promise<{ what: string; made: Ranges }> {
    const { form, attributes } = this.places;
    const { number, flags, kind } = inode;
    const made = new Ranges(form.block);
    const bytes = new Uint8Array(inode.bytes);
    const isJournal = number === this.own.journal;
    const what = kind === FOLDER ? 'folders' : isJournal ? 'journal' : 'files';
    if (number === INODE.resize && this.places.resize > 0) this.spare(bytes, made);
    else if (number === INODE.bad || number === INODE.resize) this.putMap(bytes, new Uint8Array(60), 0, 0);
    else if (inode.isMapped) {
      const map = this.map(inode, placed, made, what);
      const each = (flags & INODE_FLAG.huge) !== 0 && this.hasHuge ? 1 : form.block / 512;
      const { sectorsLow, sectorsHigh } = SHORT_INODE.fields;
      const view = new DataView(bytes.buffer);
      const before = view.getUint32(sectorsLow.offset, true) + view.getUint16(sectorsHigh.offset, true) * 2 ** 32;
      this.putMap(bytes, map, undefined, before + (placed.map.length - inode.mapBlocks) * each);
      if (isJournal) this.journalMap = map;
    }
    if (inode.attributes > 0) {
      const view = new DataView(bytes.buffer);
      const block = attributes.get(inode.attributes)!;
      view.setUint32(SHORT_INODE.fields.attributesLow.offset, low32(block), true);
      view.setUint16(SHORT_INODE.fields.attributesHigh.offset, high32(block), true);
    }
    renumberValues(bytes, attributesIn(bytes), this.numberOf);
    if (kind === FOLDER && (flags & INODE_FLAG.inline) !== 0) this.inlineFolder(bytes);
    this.file(this.numbers.get(number)!, bytes, kind === FOLDER);
    return { what, made };
  }

  private get hasHuge(): boolean {
    return hasFeature(this.gathered.head.superblock, 'huge_file');
  }

  private putMap(bytes: Uint8Array, map: Uint8Array, size: number | undefined, sectors: number): void {
    const { fields } = SHORT_INODE;
    bytes.set(map, fields.map.offset);
    const view = new DataView(bytes.buffer);
    view.setUint32(fields.sectorsLow.offset, low32(sectors), true);
    view.setUint16(fields.sectorsHigh.offset, high32(sectors), true);
    if (size === undefined) return;
    view.setUint32(fields.sizeLow.offset, low32(size), true);
    view.setUint32(fields.sizeHigh.offset, high32(size), true);
  }

  private spare(bytes: Uint8Array, made: Ranges): void {
    const { map, size, sectors } = writeSpare(made, this.places.form, this.places.resize);
    this.putMap(bytes, map, size, sectors);
  }

  /** The map of an inode in its new place; its blocks are added. */
  private map(inode: PackedInode, { pieces, map }: Placed, made: Ranges, what: string): Uint8Array {
    const { block } = this.places.form;
    let taken = 0;
    const take = () => map[taken++]!;
    const seed = this.seedOf(inode);
    const seal = (node: Uint8Array) => {
      if (seed === undefined) return;
      const tail = extentTail(block);
      new DataView(node.buffer).setUint32(tail, crc32c(node.subarray(0, tail), seed), true);
    };
    const isExtents = featuresOf(inode).has('extents');
    const written = isExtents ? writeExtents(pieces, block, take, seal) : writeMap(pieces, block, take);
    for (const { at, bytes } of written.blocks) made.bytes(what === 'files' ? 'maps of files' : what, at, bytes);
    return written.inInode;
  }

  /** The numbers in a directory that lies in its inode: of its parent, and of its entries. */
  private inlineFolder(bytes: Uint8Array): void {
    const map = SHORT_INODE.fields.map.offset;
    const view = new DataView(bytes.buffer);
    view.setUint32(map, this.numberOf(view.getUint32(map, true)) ?? 0, true);
    const { block } = this.places.form;
    renumber(bytes.subarray(map + 4, map + 60), block, this.numberOf);
    const rest = dataPlace(bytes);
    if (rest) renumber(bytes.subarray(rest.at, rest.at + rest.length), block, this.numberOf);
  }

  private file(number: number, bytes: Uint8Array, isFolder: boolean): void {
    sealInode(bytes, number, this.sums);
    const { inodesPerGroup } = this.places.form;
    const at = (number - 1) % inodesPerGroup;
    const group = (number - 1 - at) / inodesPerGroup;
    const own = this.byGroup.get(group);
    const one = { at, bytes, isFolder };
    if (own) own.push(one);
    else this.byGroup.set(group, [one]);
  }

  /** Inode tables, as far as they are used, and zeros behind that. */
  private *tables(): Generator<RepackedRange> {
    const { form } = this.places;
    for (let group = 0; group < form.groups; group++) {
      const own = this.byGroup.get(group) ?? [];
      const ranges = new Ranges(form.block);
      const end = own.reduce((most, { at }) => Math.max(most, at + 1), 0);
      const bytes = new Uint8Array(Math.ceil((end * form.inodeBytes) / form.block) * form.block);
      for (const one of own) bytes.set(one.bytes, one.at * form.inodeBytes);
      addTable(ranges, form, group, bytes, false);
      yield* ranges.all;
    }
  }

  private usage(): Usage {
    const { form, free } = this.places;
    const { inodesPerGroup } = form;
    const first = firstFree(this.gathered.head);
    const last = lastNumber(this.gathered, this.numbering);
    const folders = new Uint32Array(form.groups);
    for (const [group, own] of this.byGroup) folders[group] = own.filter(({ isFolder }) => isFolder).length;
    return {
      free: free.rest,
      folders,
      inodesOf: (group) => {
        const count = Math.min(inodesPerGroup, Math.max(0, last - group * inodesPerGroup));
        if (this.numbering === 'renumbered' || count === 0) return { bits: undefined, count, end: count };
        const bits = new Uint8Array(form.block);
        const set = (at: number) => (bits[at >> 3] = bits[at >> 3]! | (1 << (at & 7)));
        for (let at = 0; at < first - 1 - group * inodesPerGroup && at < inodesPerGroup; at++) set(at);
        for (const { at } of this.byGroup.get(group) ?? []) set(at);
        let [used, end] = [0, 0];
        for (let at = 0; at < inodesPerGroup; at++)
          if ((bits[at >> 3]! & (1 << (at & 7))) !== 0) [used, end] = [used + 1, at + 1];
        for (let at = inodesPerGroup; at < 8 * form.block; at++) set(at);
        return used === 0 ? { bits: undefined, count: 0, end: 0 } : { bits, count: used, end };
      },
    };
  }

  /** What an inode holds, in its new place. */
  private async *content(inode: PackedInode, placed: Placed, what: string): AsyncGenerator<RepackedRange> {
    const isOrphans = inode.number === this.own.orphans;
    if (inode.number === this.own.journal) return yield* this.journal(inode, placed);
    let i = 0;
    let done = 0;
    for (const to of placed.pieces) {
      for (let at = 0; at < to.count;) {
        const from = inode.pieces[i]!;
        const count = Math.min(to.count - at, from.count - done);
        const [old, made] = [from.physical + done, to.physical + at];
        if (to.isUnwritten) yield* this.unwritten(made, count, what);
        else if (inode.kind === FOLDER) yield* this.folder(inode, to.logical + at, old, made, count);
        else if (isOrphans) yield* this.orphans(inode, made, count);
        else yield* this.moved(old, made, count, what);
        at += count;
        done += count;
        if (done === from.count) [i, done] = [i + 1, 0];
      }
    }
  }

  /** Blocks that are kept for a file read as zeros whatever they hold; nothing of old shines through all the same. */
  private *unwritten(to: number, count: number, what: string): Generator<RepackedRange> {
    const { block } = this.places.form;
    yield { what, extent: { offset: to * block, zeros: count * block } };
  }

  private async *moved(from: number, to: number, count: number, what: string): AsyncGenerator<RepackedRange> {
    const { block } = this.places.form;
    const [at, length] = [from * block, count * block];
    const offset = to * block;
    if (!this.settled.isChanged(this.base + at, length)) {
      yield { what, extent: { offset, moved: { at: this.base + at, length } } };
      return;
    }
    // What stands in the journal comes from there.
    for (let done = 0; done < length; done += WINDOW) {
      const bytes = new Uint8Array(await this.read(at + done, Math.min(WINDOW, length - done)));
      yield { what, extent: { offset: offset + done, bytes } };
    }
  }

  private async *folder(
    inode: PackedInode,
    logical: number,
    from: number,
    to: number,
    count: number,
  ): AsyncGenerator<RepackedRange> {
    const { block } = this.places.form;
    const seed = this.seedOf(inode);
    const each = Math.max(1, Math.floor(WINDOW / block));
    for (let done = 0; done < count; done += each) {
      const some = Math.min(each, count - done);
      const bytes = new Uint8Array(await this.read((from + done) * block, some * block));
      for (let i = 0; i < some; i++) {
        const own = bytes.subarray(i * block, (i + 1) * block);
        own.set(folderBlock(own, logical + done + i, inode.flags, this.numberOf, seed));
      }
      yield { what: 'folders', extent: { offset: (to + done) * block, bytes } };
    }
  }

  /** The file of what is to be deleted: nothing is. */
  private *orphans(inode: PackedInode, to: number, count: number): Generator<RepackedRange> {
    const { block } = this.places.form;
    const seed = this.seedOf(inode);
    for (let i = 0; i < count; i++) {
      const bytes = new Uint8Array(block);
      const view = new DataView(bytes.buffer);
      view.setUint32(block - ORPHAN_TAIL.bytes, ORPHAN_TAIL.magic, true);
      if (seed !== undefined) {
        const place = new Uint8Array(8);
        new DataView(place.buffer).setBigUint64(0, BigInt(to + i), true);
        const sum = crc32c(bytes.subarray(0, block - ORPHAN_TAIL.bytes), crc32c(place, seed));
        view.setUint32(block - 4, sum, true);
      }
      yield { what: 'files', extent: { offset: (to + i) * block, bytes } };
    }
  }

  /** A journal with nothing in it: its first block as it stands, and zeros. */
  private async *journal({ pieces }: PackedInode, placed: Placed): AsyncGenerator<RepackedRange> {
    const { block } = this.places.form;
    const head = new Uint8Array(await this.read(pieces[0]!.physical * block, block));
    for (const { logical, physical, count } of placed.pieces) {
      const ahead = logical === 0 ? 1 : 0;
      if (ahead > 0) yield { what: 'journal', extent: { offset: physical * block, bytes: head } };
      if (count > ahead)
        yield { what: 'journal', extent: { offset: (physical + ahead) * block, zeros: (count - ahead) * block } };
    }
  }

  private async attributeBlock(old: number): Promise<PlannedExtent> {
    const { form, attributes } = this.places;
    const to = attributes.get(old)!;
    const bytes = new Uint8Array(await this.read(old * form.block, form.block));
    renumberValues(bytes, attributesOfBlock(bytes), this.numberOf);
    // As many inodes have it as go along.
    new DataView(bytes.buffer).setUint32(ATTRIBUTES_USERS_AT, this.users.get(old)!, true);
    if (this.sums.isOn)
      new DataView(bytes.buffer).setUint32(
        ATTRIBUTES_SUM_AT,
        this.sums.ofAttributes(to, bytes, ATTRIBUTES_SUM_AT),
        true,
      );
    return { offset: to * form.block, bytes };
  }

  private async mountSigns(): Promise<PlannedExtent> {
    const { form, mmp } = this.places;
    const old = Number(this.gathered.head.superblock.mmpBlock);
    const bytes = new Uint8Array(await this.read(old * form.block, form.block));
    const view = new DataView(bytes.buffer);
    view.setUint32(MMP.sequenceAt, MMP.clean, true);
    if (this.sums.isOn) view.setUint32(MMP.sumAt, this.sums.of(bytes.subarray(0, MMP.sumAt)), true);
    return { offset: mmp * form.block, bytes };
  }
}
