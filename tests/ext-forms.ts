/**
 * Ext volumes of forms that nobody is offered here, as others make them: descriptors that lie with their groups, two copies of
 * the superblock at most, or one in every group. Made of a sound volume, which is laid anew in that form.
 */
import type { BlockSource } from '@/core/bytes/blocks';
import { checksumsOf } from '@/core/filesystems/ext/checksums';
import { SUPERBLOCK_AT } from '@/core/filesystems/ext/numbers';
import { copiesOf, descriptorAt, readExtHead } from '@/core/filesystems/ext/read/head';
import { SUPERBLOCK } from '@/core/filesystems/ext/records';
import { placesIn } from '@/core/filesystems/ext/repack/place';
import { repackable, type Repacked } from '@/core/filesystems/ext/repack/repack';
import { Rewriting } from '@/core/filesystems/ext/repack/rewrite';
import { encodeInto, decode } from '@/core/bytes/record';
import { laidOver } from './repacked';

export type ExtForm = 'meta groups' | 'two copies' | 'a copy in every group';
export const EXT_FORMS: readonly ExtForm[] = ['meta groups', 'two copies', 'a copy in every group'];

const [META, SPARE, TWO_COPIES, SPARSE] = [0x10, 0x10, 0x200, 0x1];

type Fields = ReturnType<typeof decode<typeof SUPERBLOCK>>;

/** What a superblock says in such a form. */
function formed(superblock: Fields, form: ExtForm): Fields {
  const bare = { ...superblock, compatible: superblock.compatible & ~SPARE, reservedTable: 0 };
  if (form === 'meta groups') return { ...bare, incompatible: superblock.incompatible | META, firstMetaGroup: 0 };
  if (form === 'a copy in every group') return { ...superblock, readOnly: superblock.readOnly & ~SPARSE };
  const backupGroups = new Uint8Array(8).fill(1);
  return { ...bare, compatible: bare.compatible | TWO_COPIES, backupGroups };
}

/** The volume in another form, of as many bytes. */
export async function inForm(source: BlockSource, form: ExtForm): Promise<Uint8Array> {
  const found = await repackable(source, 0);
  if (!found.ok) throw new Error(found.error);
  const { settled, gathered } = found.value;
  const { head } = gathered;
  const superblock = formed(head.superblock, form);
  const meant = { ...head, superblock, firstMetaGroup: form === 'meta groups' ? 0 : Infinity };
  // The inode that leads to spare descriptors goes where there are none.
  const inodes = gathered.inodes.filter(({ number }) => number !== 7 || (superblock.compatible & SPARE) !== 0);
  const own = { head: meant, inodes };
  const places = placesIn(own, head.blocks, 'renumbered');
  if (!places) throw new Error(`no room in the form ${form}`);
  const rewriting = new Rewriting(settled, 0, own, places, 'renumbered');
  const made: Repacked = {
    ...{ bytes: head.blocks * head.block, block: head.block, free: 0, words: [] },
    ranges: () => rewriting.ranges(),
  };
  const bytes = await laidOver(source, made);
  // What was written of the superblock says the features of old.
  const { copyRule } = places.form;
  const seconds = Array.isArray(copyRule) ? copyRule : [0, 0];
  const backupGroups = new Uint8Array(Uint32Array.from([seconds[0] ?? 0, seconds[1] ?? 0]).buffer);
  const first = decode(SUPERBLOCK, bytes.subarray(SUPERBLOCK_AT, SUPERBLOCK_AT + 1024));
  const { compatible, incompatible, readOnly, reservedTable, firstMetaGroup } = superblock;
  const said = {
    compatible,
    incompatible,
    readOnly,
    reservedTable,
    firstMetaGroup,
    ...(form === 'two copies' && { backupGroups }),
  };
  const sums = checksumsOf(first);
  const seal = (at: number) => {
    const raw = bytes.subarray(at, at + 1024);
    encodeInto(raw, SUPERBLOCK, { ...decode(SUPERBLOCK, raw), ...said });
    if (sums.isOn)
      new DataView(bytes.buffer).setUint32(at + SUPERBLOCK.fields.checksum.offset, sums.ofSuperblock(raw), true);
  };
  seal(SUPERBLOCK_AT);
  const now = await readExtHead(
    { size: bytes.length, read: (at, length) => Promise.resolve(bytes.subarray(at, at + length)) },
    0,
  );
  if (!now || 'refused' in now) throw new Error('it cannot be read');
  for (const group of copiesOf(now.head))
    if (group > 0) seal((first.firstDataBlock + group * first.blocksPerGroup) * head.block);
  if (form === 'meta groups' && descriptorAt(now.head, 0) === 0) throw new Error('no descriptors');
  return bytes;
}
