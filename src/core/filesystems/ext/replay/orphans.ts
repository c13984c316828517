/**
 * Files that had no name any more, or were being made shorter, when the machine stopped ("Orphan file", and the list that
 * begins in the superblock): a kernel deletes the ones and finishes the others when it mounts the volume.
 */
import { decode } from '../../../bytes/record';
import { BrokenChain } from '../../volume';
import type { Checksums } from '../checksums';
import { type FeatureFields, hasFeature } from '../feature-bits';
import { sealInode } from '../inode';
import { ATTRIBUTES_MAGIC, FILE_TYPE, INODE_FLAG } from '../numbers';
import { SHORT_INODE } from '../records';
import { type ExtInode, type Inodes } from '../read/inodes';
import { Accounts } from './accounts';
import { shortened } from './shorten';
import type { PatchedView } from './view';

/** What was done with them, and what could not be. */
export interface OrphansDone {
  readonly deleted: number;
  readonly shortened: number;
  readonly troubles: readonly string[];
}

const HALF = 2 ** 32;
/** Mark of each block of the file of orphans. */
const FILE_MAGIC = 0x0b10ca04;
/** Bytes at the end of each block of that file. */
const FILE_TAIL = 8;
/** Most that are worked off. */
const MOST = 100_000;
/** Of a block of attributes: how many use it, and its checksum. */
const [USERS_AT, SUM_AT] = [4, 16];
/** Targets below this lie in the inode. */
const SHORT_TARGET = 60;

class Orphans {
  deleted = 0;
  shortened = 0;
  readonly troubles: string[] = [];
  private readonly seen = new Set<number>();
  private readonly accounts: Accounts;

  constructor(
    private readonly inodes: Inodes,
    private readonly view: PatchedView,
    private readonly sums: Checksums,
  ) {
    this.accounts = new Accounts(inodes, view);
  }

  /** True where an inode can be one: in use, and no other than what is deleted or made shorter. */
  private async find(number: number): Promise<ExtInode> {
    const { firstInode, inodes } = this.inodes.head.superblock;
    if (number < firstInode || number > inodes) throw new BrokenChain(`inode ${number} cannot be deleted`);
    if (!(await this.accounts.isInUse(number))) throw new BrokenChain(`inode ${number} is not in use`);
    return this.inodes.at(number);
  }

  private hasBlocks({ kind, flags, size }: ExtInode): boolean {
    if ((flags & INODE_FLAG.inline) !== 0) return false;
    if (kind === FILE_TYPE.file.mode || kind === FILE_TYPE.folder.mode) return true;
    return kind === FILE_TYPE.link.mode && ((flags & INODE_FLAG.extents) !== 0 || size >= SHORT_TARGET);
  }

  /** Works one off; gives the next of the list. */
  async work(number: number): Promise<number> {
    if (this.seen.has(number) || this.seen.size >= MOST) throw new BrokenChain(`inode ${number} stands in it twice`);
    this.seen.add(number);
    const inode = await this.find(number);
    const { links, deleted: next } = decode(SHORT_INODE, inode.bytes);
    if (links > 0) await this.shorten(inode);
    else await this.remove(inode);
    return next;
  }

  private async shorten(inode: ExtInode): Promise<void> {
    const { block } = this.inodes.head;
    if (!this.hasBlocks(inode) && (inode.flags & INODE_FLAG.inline) === 0)
      throw new BrokenChain(`inode ${inode.number} cannot be made shorter`);
    this.shortened += 1;
    const bytes = new Uint8Array(inode.bytes);
    const view = new DataView(bytes.buffer);
    const { fields } = SHORT_INODE;
    if (this.hasBlocks(inode)) {
      const { map, nodes, freed } = await shortened(this.inodes, this.sums, inode, Math.ceil(inode.size / block));
      for (const [at, node] of nodes) this.view.set(at, node);
      const blocks = await this.free(freed);
      bytes.set(map, fields.map.offset);
      const { sectorsLow, sectorsHigh } = decode(SHORT_INODE, bytes);
      const unit = (inode.flags & INODE_FLAG.huge) !== 0 ? 1 : block / 512;
      const sectors = Math.max(0, sectorsLow + sectorsHigh * HALF - blocks * unit);
      view.setUint32(fields.sectorsLow.offset, sectors % HALF, true);
      view.setUint16(fields.sectorsHigh.offset, Math.floor(sectors / HALF), true);
    }
    view.setUint32(fields.deleted.offset, 0, true);
    sealInode(bytes, inode.number, this.sums);
    await this.view.put(inode.at, bytes);
  }

  private async free(freed: readonly { start: number; count: number }[]): Promise<number> {
    let blocks = 0;
    for (const { start, count } of freed) {
      await this.accounts.freeBlocks(start, count);
      blocks += count;
    }
    return blocks;
  }

  private async remove(inode: ExtInode): Promise<void> {
    const { freed } = this.hasBlocks(inode) ? await shortened(this.inodes, this.sums, inode, 0) : { freed: [] };
    await this.releaseAttributes(inode);
    await this.free(freed);
    await this.accounts.freeInode(inode.number, inode.kind === FILE_TYPE.folder.mode);
    this.deleted += 1;
  }

  /** Lets go of a block of attributes, which others may use too. */
  private async releaseAttributes({ bytes: inode, number }: ExtInode): Promise<void> {
    const { head } = this.inodes;
    const { attributesLow, attributesHigh } = decode(SHORT_INODE, inode);
    const at = attributesLow + attributesHigh * HALF;
    if (hasFeature(head.superblock, 'ea_inode'))
      this.troubles.push(`attributes of inode ${number} may lie in inodes of their own: those were not let go of`);
    if (at === 0) return;
    if (at >= head.blocks) throw new BrokenChain(`attributes of inode ${number} lie outside of the volume`);
    const bytes = new Uint8Array(await this.inodes.read(at * head.block, head.block));
    const view = new DataView(bytes.buffer);
    if (view.getUint32(0, true) !== ATTRIBUTES_MAGIC)
      throw new BrokenChain(`attributes of inode ${number} have no mark`);
    const users = view.getUint32(USERS_AT, true);
    if (users <= 1) return this.accounts.freeBlocks(at, 1);
    view.setUint32(USERS_AT, users - 1, true);
    if (this.sums.isOn) view.setUint32(SUM_AT, this.sums.ofAttributes(at, bytes, SUM_AT), true);
    this.view.set(at, bytes);
  }

  /** Those of the file that kernels of today keep. */
  private async *inFile(): AsyncGenerator<number> {
    const { head } = this.inodes;
    if (!hasOrphanFile(head.superblock)) return;
    const file = await this.inodes.at(head.superblock.orphanFile);
    for await (const { count, at } of this.inodes.runs(file)) {
      if (at === undefined) continue;
      for (let i = 0; i < count; i++) {
        const bytes = new Uint8Array(await this.inodes.read((at + i) * head.block, head.block));
        const view = new DataView(bytes.buffer);
        if (view.getUint32(head.block - FILE_TAIL, true) !== FILE_MAGIC)
          throw new BrokenChain('the file of what is to be deleted has no mark');
        for (let place = 0; place + 4 <= head.block - FILE_TAIL; place += 4) {
          const number = view.getUint32(place, true);
          if (number === 0) continue;
          yield number;
          await this.view.put((at + i) * head.block + place, new Uint8Array(4));
        }
      }
    }
  }

  private async trying(work: () => Promise<unknown>): Promise<void> {
    try {
      await work();
    } catch (error) {
      if (!(error instanceof BrokenChain)) throw error;
      this.troubles.push(error.message);
    }
  }

  async all(): Promise<void> {
    const { lastOrphan } = this.inodes.head.superblock;
    // Where one of the list is none, a kernel lets go of the rest.
    await this.trying(async () => {
      for (let next = lastOrphan; next !== 0;) next = await this.work(next);
    });
    await this.trying(async () => {
      for await (const number of this.inFile()) await this.trying(() => this.work(number));
    });
    await this.accounts.close();
  }
}

/** There is a file of orphans, and something in it. */
const hasOrphanFile = (superblock: FeatureFields): boolean =>
  hasFeature(superblock, 'orphan_file') && hasFeature(superblock, 'orphan_present');

/** Works off what is to be deleted or made shorter; `view`, which `inodes` read, takes what changes. */
export async function workOff(inodes: Inodes, view: PatchedView, sums: Checksums): Promise<OrphansDone> {
  const { superblock } = inodes.head;
  if (superblock.lastOrphan === 0 && !hasOrphanFile(superblock)) return { deleted: 0, shortened: 0, troubles: [] };
  if (hasFeature(superblock, 'bigalloc'))
    return {
      deleted: 0,
      shortened: 0,
      troubles: ['its blocks are counted in clusters: what is to be deleted still stands there'],
    };
  const work = new Orphans(inodes, view, sums);
  await work.all();
  const { deleted, shortened, troubles } = work;
  return { deleted, shortened, troubles };
}
