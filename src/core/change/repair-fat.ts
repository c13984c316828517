/**
 * Repairs of FAT volumes: sectors before the volume, the copy of the boot sector, FSInfo, the marks of a clean end
 * ("FAT32 FSInfo Sector Structure and Backup Boot Sector", "FAT Data Structure"). Files and chains stay as they are.
 */
import type { BlockSource } from '../bytes/blocks';
import { encode } from '../bytes/record';
import { hiddenSectors } from '../filesystems/fat/geometry';
import type { FatFound } from '../filesystems/fat/read';
import { isOfTwoMinds, shapeOf } from '../filesystems/fat/header';
import { BOOT_SECTOR, INFO_LEAD, INFO_SECTOR, INFO_STRUCTURE, INFO_TRAIL } from '../filesystems/fat/records';
import { fail, ok, type Result } from '../quantity/result';
import type { FoundPartition, Survey } from '../survey/found';
import { named } from '../survey/structures';
import type { Change, Repair } from './repairs';

/** A FAT volume with the partition that holds it, and where that begins. */
export interface FatVolume {
  readonly one: FoundPartition;
  readonly fat: FatFound;
  /** Byte of the medium. */
  readonly base: number;
}

export function fatVolumesOf({ partitions, sectorSize }: Survey): FatVolume[] {
  return partitions.flatMap((one) =>
    one.inside.kind === 'fat' ? [{ one, fat: one.inside.fat, base: one.start * sectorSize }] : [],
  );
}

/** What a repair asks of one volume: whether it needs it, and what is written. */
export interface VolumeRepair {
  readonly needs: (volume: FatVolume) => boolean;
  readonly change: (volume: FatVolume, source: BlockSource) => Promise<Result<Change, string>>;
}

/** Changes of every volume that needs one; the first that cannot be changed is the reason to change none. */
async function overAll(
  survey: Survey,
  source: BlockSource,
  { needs, change: changeOf }: VolumeRepair,
): Promise<Result<Change, string>> {
  const changes: Change[number][] = [];
  for (const volume of fatVolumesOf(survey).filter(needs)) {
    const { base, fat } = volume;
    const { totalSectors, sectorSize } = fat.shape;
    // What its header counts must be its own: else something else would be written over.
    const isWithin = fat.beyondPlace === 0 && base + totalSectors * sectorSize <= source.size;
    const change = !isWithin
      ? fail('it is longer than its place')
      : isOfTwoMinds(fat.shape)
        ? fail('its header is that of another variant: what it describes is not known')
        : await changeOf(volume, source);
    if (!change.ok) return fail(`${named(volume.one)}: ${change.error}`);
    changes.push(...change.value);
  }
  return ok(changes);
}

/** Sectors of the reserved area, as they are. */
const sectorOf = async (source: BlockSource, { base, fat: { shape } }: FatVolume, sector: number) =>
  Uint8Array.from(await source.read(base + sector * shape.sectorSize, shape.sectorSize));

/** True for a sector of the reserved area that is not the boot sector. */
const isReserved = ({ fat: { shape } }: FatVolume, sector: number) => sector > 0 && sector < shape.reserved;

/** Logical volumes count from their record, or from the start of the medium: both are in use. */
const HIDDEN: VolumeRepair = {
  needs: ({ one, fat }) => one.kind !== 'logical' && fat.hidden !== hiddenSectors(one.start),
  change: async (volume, source) => {
    const { one, fat, base } = volume;
    const { shape, backupAgrees } = fat;
    const hasCopy = backupAgrees && shape.width === 32 && isReserved(volume, shape.backupSector);
    const change: Change[number][] = [];
    for (const sector of hasCopy ? [0, shape.backupSector] : [0]) {
      const bytes = await sectorOf(source, volume, sector);
      new DataView(bytes.buffer).setUint32(BOOT_SECTOR.fields.hidden.offset, hiddenSectors(one.start), true);
      const what = `boot sector of ${named(one)}${sector === 0 ? '' : ', copy'}`;
      change.push({ what, at: base + sector * shape.sectorSize, bytes });
    }
    return ok(change);
  },
};

const BOOT_COPY: VolumeRepair = {
  needs: ({ fat: { shape, backupAgrees } }) => !backupAgrees && shape.width === 32,
  change: async (volume, source) => {
    const { one, fat, base } = volume;
    const { backupSector, infoSector, sectorSize } = fat.shape;
    if (!isReserved(volume, backupSector) || backupSector === infoSector)
      return fail('its header names no sector for a copy');
    const bytes = await sectorOf(source, volume, 0);
    const there = shapeOf(await sectorOf(source, volume, backupSector));
    // A copy that describes another volume may be the one that is right.
    if (there && JSON.stringify(there) !== JSON.stringify(fat.shape))
      return fail('the first and the copy describe different volumes, and nobody knows which is right');
    return ok([{ what: `boot sector of ${named(one)}, copy`, at: base + backupSector * sectorSize, bytes }]);
  },
};

/** Not known: systems count anew, and look from the start. */
const UNKNOWN = 0xffffffff;

const INFO: VolumeRepair = {
  needs: ({ fat: { shape, infoSound, freeTold, freeCounted } }) => {
    const isKnown = freeTold !== undefined && freeTold !== UNKNOWN && freeCounted !== undefined;
    return shape.width === 32 && (!infoSound || (isKnown && freeTold !== freeCounted));
  },
  change: async (volume, source) => {
    const { one, fat, base } = volume;
    const { backupSector, infoSector, sectorSize } = fat.shape;
    if (!isReserved(volume, infoSector) || infoSector === backupSector)
      return fail('its header names no sector for FSInfo');
    const bytes = await sectorOf(source, volume, infoSector);
    // The reserved parts of a sound one stay; of one without its marks nothing is believed.
    if (!fat.infoSound) bytes.fill(0);
    const made = encode(INFO_SECTOR, {
      lead: INFO_LEAD,
      structure: INFO_STRUCTURE,
      free: fat.freeCounted ?? UNKNOWN,
      next: UNKNOWN,
      trail: INFO_TRAIL,
    });
    for (const { offset } of Object.values(INFO_SECTOR.fields)) bytes.set(made.subarray(offset, offset + 4), offset);
    return ok([{ what: `FSInfo of ${named(one)}`, at: base + infoSector * sectorSize, bytes }]);
  },
};

/** The two top bits of FAT[1], in every copy of the FAT; FAT12 has none. */
const CLEAN_MARK: VolumeRepair = {
  needs: ({ fat: { shape, cleanlyUnmounted } }) => !cleanlyUnmounted && shape.width !== 12,
  change: async (volume, source) => {
    const { one, fat, base } = volume;
    const { shape } = fat;
    if (!fat.fatsAgree) return fail('its FATs differ: which of them is right is looked at first');
    const change: Change[number][] = [];
    for (let copy = 0; copy < shape.fats; copy++) {
      const sector = shape.reserved + copy * shape.fatSectors;
      const bytes = await sectorOf(source, volume, sector);
      const view = new DataView(bytes.buffer);
      if (shape.width === 16) view.setUint16(2, view.getUint16(2, true) | 0xc000, true);
      else view.setUint32(4, (view.getUint32(4, true) | 0x0c000000) >>> 0, true);
      change.push({ what: `FAT ${copy + 1} of ${named(one)}`, at: base + sector * shape.sectorSize, bytes });
    }
    return ok(change);
  },
};

/** A repair of every volume that needs it. */
export function volumeRepair(
  id: string,
  rules: readonly string[],
  label: string,
  why: string,
  of: VolumeRepair,
): Repair {
  return { id, rules, label, why, change: (survey, source) => overAll(survey, source, of) };
}

/** Repairs of FAT volumes, in the order in which they are made together. */
export const FAT_REPAIRS: readonly Repair[] = [
  volumeRepair(
    'fat-hidden-sectors',
    ['found-fat/hidden-sectors-wrong'],
    'Say in the boot sector where the volume begins',
    'Boot code finds its files by this figure.',
    HIDDEN,
  ),
  volumeRepair(
    'fat-boot-copy',
    ['found-fat/boot-sector-copy-differs'],
    'Write the copy of the boot sector from the first',
    'It helps where the first one is lost, if it is the same.',
    BOOT_COPY,
  ),
  volumeRepair(
    'fat-fsinfo',
    ['found-fat/fsinfo-bad', 'found-fat/free-count-wrong'],
    'Write FSInfo with the free clusters that the FAT has',
    'Systems show that figure, and count anew where there is none.',
    INFO,
  ),
  {
    ...volumeRepair(
      'fat-clean-mark',
      ['found-fat/not-unmounted'],
      'Mark the volume as unmounted cleanly',
      'Systems complain until it is; but the mark also says that files which were open then should be looked at.',
      CLEAN_MARK,
    ),
    onRequest: true,
  },
];
