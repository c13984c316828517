/**
 * Ext volumes of forms that nobody is offered here, as others make them: descriptors that lie with their groups, two copies of
 * the superblock at most, or one in every group. Made of a sound volume, which is laid anew in that form. In a volume for small
 * files in their inodes nothing else is different: kernels lay them so once it is said.
 */
import type { BlockSource } from '@/core/bytes/blocks';
import { checksumsOf } from '@/core/filesystems/ext/checksums';
import { SUPERBLOCK_AT } from '@/core/filesystems/ext/numbers';
import { copiesOf, descriptorAt, type ExtHead, readExtHead } from '@/core/filesystems/ext/read/head';
import { SUPERBLOCK } from '@/core/filesystems/ext/records';
import { placesIn } from '@/core/filesystems/ext/repack/place';
import { repackable, type Repacked } from '@/core/filesystems/ext/repack/repack';
import { Rewriting } from '@/core/filesystems/ext/repack/rewrite';
import { encodeInto, decode } from '@/core/bytes/record';
import { inMemory } from './filled';
import { laidOver } from './repacked';

export type ExtForm = 'meta groups' | 'two copies' | 'a copy in every group';
export const EXT_FORMS: readonly ExtForm[] = ['meta groups', 'two copies', 'a copy in every group'];

const [META, SPARE, TWO_COPIES, SPARSE, INLINE] = [0x10, 0x10, 0x200, 0x1, 0x8000];

type Fields = ReturnType<typeof decode<typeof SUPERBLOCK>>;

/** What a superblock says in such a form. */
function formed(superblock: Fields, form: ExtForm): Fields {
  const bare = { ...superblock, compatible: superblock.compatible & ~SPARE, reservedTable: 0 };
  if (form === 'meta groups') return { ...bare, incompatible: superblock.incompatible | META, firstMetaGroup: 0 };
  if (form === 'a copy in every group') return { ...superblock, readOnly: superblock.readOnly & ~SPARSE };
  const backupGroups = new Uint8Array(8).fill(1);
  return { ...bare, compatible: bare.compatible | TWO_COPIES, backupGroups };
}

/** Has every superblock of a volume say something else, with its checksum; the head that can be read then. */
async function sealed(bytes: Uint8Array, said: Partial<Fields>): Promise<ExtHead> {
  const sums = checksumsOf(decode(SUPERBLOCK, bytes.subarray(SUPERBLOCK_AT, SUPERBLOCK_AT + 1024)));
  const seal = (at: number) => {
    const raw = bytes.subarray(at, at + 1024);
    encodeInto(raw, SUPERBLOCK, { ...decode(SUPERBLOCK, raw), ...said });
    if (!sums.isOn) return;
    const view = new DataView(raw.buffer, raw.byteOffset);
    view.setUint32(SUPERBLOCK.fields.checksum.offset, sums.ofSuperblock(raw), true);
  };
  seal(SUPERBLOCK_AT);
  const now = await readExtHead(inMemory(bytes), 0);
  if (!now || 'refused' in now) throw new Error('it cannot be read');
  const { block, superblock } = now.head;
  for (const group of copiesOf(now.head))
    if (group > 0) seal((superblock.firstDataBlock + group * superblock.blocksPerGroup) * block);
  return now.head;
}

/** The volume whose kernel may put small files into their inodes; the bytes are changed. */
export async function forInlineData(bytes: Uint8Array): Promise<Uint8Array> {
  const { incompatible } = decode(SUPERBLOCK, bytes.subarray(SUPERBLOCK_AT, SUPERBLOCK_AT + 1024));
  await sealed(bytes, { incompatible: incompatible | INLINE });
  return bytes;
}

/** The volume in another form, of as many bytes. */
export async function inForm(source: BlockSource, form: ExtForm): Promise<Uint8Array> {
  const found = await repackable(source, 0);
  if (!found.ok) throw new Error(found.error);
  const { settled, gathered } = found.value;
  const { head: old } = gathered;
  const superblock = formed(old.superblock, form);
  const meant = { ...old, superblock, firstMetaGroup: form === 'meta groups' ? 0 : Infinity };
  // The inode that leads to spare descriptors goes where there are none.
  const inodes = gathered.inodes.filter(({ number }) => number !== 7 || (superblock.compatible & SPARE) !== 0);
  const own = { head: meant, inodes };
  const places = placesIn(own, old.blocks, 'renumbered');
  if (!places) throw new Error(`no room in the form ${form}`);
  const rewriting = new Rewriting(settled, 0, own, places, 'renumbered');
  const made: Repacked = {
    ...{ bytes: old.blocks * old.block, block: old.block, free: 0, words: [] },
    ranges: () => rewriting.ranges(),
  };
  const bytes = await laidOver(source, made);
  // What was written of the superblock says the features of old.
  const { copyRule } = places.form;
  const seconds = Array.isArray(copyRule) ? copyRule : [0, 0];
  const backupGroups = new Uint8Array(Uint32Array.from([seconds[0] ?? 0, seconds[1] ?? 0]).buffer);
  const { compatible, incompatible, readOnly, reservedTable, firstMetaGroup } = superblock;
  const said = {
    compatible,
    incompatible,
    readOnly,
    reservedTable,
    firstMetaGroup,
    ...(form === 'two copies' && { backupGroups }),
  };
  const head = await sealed(bytes, said);
  if (form === 'meta groups' && descriptorAt(head, 0) === 0) throw new Error('no descriptors');
  return bytes;
}
