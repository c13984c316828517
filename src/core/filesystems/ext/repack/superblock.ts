/** The superblock of a repacked volume: what it says of the volume stays; what it says of lengths and places is new ("Super Block"). */
import { high32, low32 } from '../../../quantity/integers';
import { decode, encodeInto } from '../../../bytes/record';
import { checksumsOf } from '../checksums';
import { FEATURE_BITS } from '../feature-bits';
import { type Superblock, SUPERBLOCK } from '../records';
import { firstFree, type Places } from './place';

const { needs_recovery: TO_REPLAY } = FEATURE_BITS.incompatible;
const { orphan_present: ORPHANS_THERE } = FEATURE_BITS.readOnly;
const [CLEAN, MET_ERRORS] = [1, 2];

/** What else its superblock has to say. */
export interface Said {
  readonly places: Places;
  readonly numberOf: (inode: number) => number;
  /** Inodes that can be given out, and are not. */
  readonly freeInodes: number;
  /** The map of the journal, and its length in bytes, where the superblock has a copy of them. */
  readonly journal: { readonly map: Uint8Array; readonly size: number } | undefined;
}

/** Blocks kept for the administrator: the same part of the volume. */
function reservedBlocks(was: Superblock, blocksBefore: number, isLong: boolean, blocks: number): number {
  const reserved = was.reservedLow + (isLong ? was.reservedHigh * 2 ** 32 : 0);
  return Math.min(reserved, blocks, Math.floor(blocks * (reserved / blocksBefore)));
}

function journalCopy({ map, size }: NonNullable<Said['journal']>): Uint8Array {
  const out = new Uint8Array(68);
  out.set(map);
  const view = new DataView(out.buffer);
  view.setUint32(60, high32(size), true);
  view.setUint32(64, low32(size), true);
  return out;
}

/** The bytes of the superblock for a group, made from those that were there; fields that are not known stay. */
export function repackedSuperblock(
  raw: Uint8Array,
  blocksBefore: number,
  isLong: boolean,
  said: Said,
  group: number,
): Uint8Array {
  const was = decode(SUPERBLOCK, raw);
  const { places, numberOf, freeInodes, journal } = said;
  const { form, free, mmp } = places;
  const reserved = reservedBlocks(was, blocksBefore, isLong, form.blocks);
  const numbered = (inode: number) => (inode === 0 ? 0 : numberOf(inode));
  const backups = new Uint8Array(8);
  const copies = Array.isArray(form.copyRule) ? form.copyRule : [];
  copies.forEach((one, i) => new DataView(backups.buffer).setUint32(4 * i, one, true));
  const hadErrors = (was.state & MET_ERRORS) !== 0;
  const bytes = new Uint8Array(raw);
  encodeInto(bytes, SUPERBLOCK, {
    ...was,
    inodes: form.groups * form.inodesPerGroup,
    blocksLow: low32(form.blocks),
    reservedLow: low32(reserved),
    freeBlocksLow: low32(free.left),
    freeInodes,
    state: (was.state & ~MET_ERRORS) | CLEAN,
    group: group & 0xffff,
    incompatible: (was.incompatible & ~TO_REPLAY) >>> 0,
    readOnly: (was.readOnly & ~ORPHANS_THERE) >>> 0,
    journalInode: numbered(was.journalInode),
    lastOrphan: 0,
    firstMetaGroup: form.meta?.first ?? was.firstMetaGroup,
    ...(journal && was.journalBackup === 1 && { journalCopy: journalCopy(journal) }),
    ...(isLong && {
      blocksHigh: high32(form.blocks),
      reservedHigh: high32(reserved),
      freeBlocksHigh: high32(free.left),
    }),
    mmpBlock: mmp > 0 ? BigInt(mmp) : was.mmpBlock,
    // What a volume met with goes with its errors.
    ...(hadErrors && { errors: new Uint8Array(was.errors.length) }),
    userQuota: numbered(was.userQuota),
    groupQuota: numbered(was.groupQuota),
    projectQuota: numbered(was.projectQuota),
    lostAndFound: numbered(was.lostAndFound),
    orphanFile: numbered(was.orphanFile),
    overhead: 0,
    // Groups with copies, where only two have one.
    ...(Array.isArray(form.copyRule) && { backupGroups: backups }),
  });
  const sums = checksumsOf(was);
  if (sums.isOn)
    new DataView(bytes.buffer).setUint32(SUPERBLOCK.fields.checksum.offset, sums.ofSuperblock(bytes), true);
  return bytes;
}

/** Inodes of the volume that nothing uses. */
export function freeInodesOf({ form }: Places, used: number, head: Parameters<typeof firstFree>[0]): number {
  return form.groups * form.inodesPerGroup - (firstFree(head) - 1) - used;
}
