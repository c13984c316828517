/** The start of a file system from the copy that it keeps: the boot sector of a FAT32, the superblock of an ext. */
import type { BlockSource } from '../bytes/blocks';
import { crc32c } from '../bytes/crc32c';
import { decode } from '../bytes/record';
import { SUPERBLOCK_AT } from '../filesystems/ext/numbers';
import { SUPERBLOCK } from '../filesystems/ext/records';
import type { LostHead } from '../filesystems/lost-heads';
import { ok, type Result } from '../quantity/result';
import type { Survey } from '../survey/found';
import { named } from '../survey/structures';
import type { Change, Repair } from './repairs';

/** Feature of superblocks that have a checksum of themselves. */
const HAS_CHECKSUM = 0x400;

/** The first superblock, from a copy: it says of which group it is, and its checksum covers that. */
function firstSuperblock(copy: Uint8Array): Uint8Array {
  const bytes = Uint8Array.from(copy);
  const view = new DataView(bytes.buffer);
  view.setUint16(SUPERBLOCK.fields.group.offset, 0, true);
  const at = SUPERBLOCK.fields.checksum.offset;
  if ((decode(SUPERBLOCK, bytes).readOnly & HAS_CHECKSUM) !== 0)
    view.setUint32(at, crc32c(bytes.subarray(0, at)), true);
  return bytes;
}

async function startOf(lost: LostHead, base: number, source: BlockSource): Promise<{ at: number; bytes: Uint8Array }> {
  const copy = await source.read(base + lost.at, lost.length);
  return lost.what === 'ext'
    ? { at: base + SUPERBLOCK_AT, bytes: firstSuperblock(copy) }
    : { at: base, bytes: Uint8Array.from(copy) };
}

async function change(survey: Survey, source: BlockSource): Promise<Result<Change, string>> {
  const all: Change[number][] = [];
  for (const one of survey.partitions) {
    if (one.inside.kind !== 'unknown' && one.inside.kind !== 'zeros') continue;
    const { lost } = one.inside;
    if (!lost) continue;
    const what = `${lost.what === 'ext' ? 'superblock' : 'boot sector'} of ${named(one)}`;
    all.push({ what, ...(await startOf(lost, one.start * survey.sectorSize, source)) });
  }
  return ok(all);
}

export const START_REPAIRS: readonly Repair[] = [
  {
    id: 'start-from-copy',
    rules: ['found-place/start-lost'],
    label: 'Write the start of the file system from its copy',
    why: 'Without it nobody finds what lies behind; the copy says the same, but for what changed since it was made.',
    change,
  },
];
