/**
 * The headers of a volume that is moved: FAT and NTFS say how many sectors of the medium lie before the volume, in the same
 * four bytes of their boot sectors ("Boot Sector and BPB Structure", BPB_HiddSec). A header that was wrong before the move
 * is left as it is: a repair answers for it. exFAT has the same in both of its boot regions, which have checksums
 * ("PartitionOffset Field", "Main and Backup Boot Checksum Sub-regions").
 */
import type { BlockSource } from '../bytes/blocks';
import { REGION } from '../filesystems/exfat/geometry';
import type { ExfatFound } from '../filesystems/exfat/read';
import { EXFAT_BOOT_SECTOR, sumRegion } from '../filesystems/exfat/records';
import { hiddenSectors } from '../filesystems/fat/geometry';
import { BOOT_SECTOR } from '../filesystems/fat/records';
import { isVolumeHead } from '../filesystems/readers';
import type { FoundEntry } from '../layout/document';
import type { Survey } from '../survey/found';
import { alike, type Put } from './plan';

/** Bytes at the front of a boot sector by which its copy is known: the jump, the maker's name, the fields. */
const ALIKE = 90;
const HIDDEN_AT = BOOT_SECTOR.fields.hidden.offset;

const hiddenIn = (sector: Uint8Array) => new DataView(sector.buffer, sector.byteOffset).getUint32(HIDDEN_AT, true);

/** Sectors of a partition in which copies of its boot sector may stand: that of FAT32, and the last one of NTFS. */
function copyPlaces(was: FoundEntry, survey: Survey): number[] {
  const found = insideOf(was, survey);
  if (found?.kind === 'fat') return found.fat.backupAgrees ? [found.fat.shape.backupSector] : [];
  return was.inside?.kind === 'NTFS' ? [was.sectors - 1] : [];
}

/** What was found inside of a partition that moves. */
const insideOf = (was: FoundEntry, { partitions }: Survey) =>
  partitions.find(({ start, number }) => start === was.at && number === was.number)?.inside;

/** Both boot regions of an exFAT with the place that it moves to, where they say the one that it has. */
async function regionsAfterMove(
  { shape, partitionOffset, regionSound, copySound }: ExfatFound,
  was: FoundEntry,
  to: number,
  sectorSize: number,
  source: BlockSource,
): Promise<Put[]> {
  const length = REGION * shape.sectorSize;
  if (partitionOffset !== was.at || 2 * length > was.sectors * sectorSize) return [];
  const puts: Put[] = [];
  for (const [i, isSound] of [regionSound, copySound].entries()) {
    if (!isSound) continue;
    const bytes = Uint8Array.from(await source.read(was.at * sectorSize + i * length, length));
    new DataView(bytes.buffer).setBigUint64(EXFAT_BOOT_SECTOR.fields.partitionOffset.offset, BigInt(to), true);
    sumRegion(bytes, shape.sectorSize);
    const what = `boot region of partition ${was.number}${i === 0 ? '' : ', copy'}: sectors before the volume`;
    puts.push({ what, extent: { offset: to * sectorSize + i * length, bytes } });
  }
  return puts;
}

/** The headers of a volume that moves to sector `to`, with the sectors before it corrected; `was` is where it lies now. */
export async function hiddenAfterMove(
  survey: Survey,
  was: FoundEntry,
  to: number,
  source: BlockSource,
): Promise<Put[]> {
  const { sectorSize } = survey;
  const inside = insideOf(was, survey);
  if (inside?.kind === 'exfat') return regionsAfterMove(inside.exfat, was, to, sectorSize, source);
  const read = (sector: number) => source.read((was.at + sector) * sectorSize, sectorSize);
  const boot = was.sectors > 0 ? await read(0) : undefined;
  if (!boot || !['FAT12', 'FAT16', 'FAT32', 'NTFS'].includes(was.inside?.kind ?? '') || !isVolumeHead(boot)) return [];
  if (hiddenIn(boot) !== hiddenSectors(was.at)) return [];
  const puts: Put[] = [];
  for (const sector of new Set([0, ...copyPlaces(was, survey)])) {
    if (sector < 0 || sector >= was.sectors) continue;
    const bytes = Uint8Array.from(await read(sector));
    if (!alike(bytes.subarray(0, ALIKE), boot.subarray(0, ALIKE))) continue;
    new DataView(bytes.buffer).setUint32(HIDDEN_AT, hiddenSectors(to), true);
    const what = `boot sector of partition ${was.number}${sector === 0 ? '' : ', copy'}: sectors before the volume`;
    puts.push({ what, extent: { offset: (to + sector) * sectorSize, bytes } });
  }
  return puts;
}
