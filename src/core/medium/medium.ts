/**
 * A medium: how many bytes there are and how they like to be written.
 * Capacities of disks follow the industry's formula; cards and sticks follow nothing, so a
 * layout for "any 8 GB card" is placed on a floor below the nominal size.
 */
import { GB, MIB } from '../quantity/units';
import { alignDown } from '../quantity/integers';

/** What sort of thing the medium is. */
export const MEDIUM_KINDS = ['disk', 'solid-state', 'card', 'stick', 'on-board', 'image'] as const;
export type MediumKind = (typeof MEDIUM_KINDS)[number];

/** How a kind is called in a sentence. */
export const KIND_NAMES: Readonly<Record<MediumKind, string>> = {
  disk: 'disk',
  'solid-state': 'solid-state disk',
  card: 'card',
  stick: 'stick',
  'on-board': 'on-board flash',
  image: 'image file',
};

/** A medium in figures. All sizes in bytes; `writeUnit` and `optimalIo` are 0 where they are not known. */
export interface Medium {
  readonly kind: MediumKind;
  readonly capacity: number;
  readonly logicalSector: 512 | 4096;
  readonly physicalSector: 512 | 4096;
  readonly writeUnit: number;
  /** The optimal I/O size that the device reports. */
  readonly optimalIo: number;
}

/** Kinds that are flash behind a simple controller, where the write unit matters most. */
export function isPlainFlash(kind: MediumKind): boolean {
  return kind === 'card' || kind === 'on-board';
}

/** Share of the nominal size, in per cent, that every medium of that size is expected to hold. */
export function usualFloor(kind: MediumKind): number {
  return kind === 'card' || kind === 'stick' || kind === 'on-board' ? 92 : 97;
}

const FLASH = [1, 2, 4, 8, 16, 32, 64, 128, 256, 512, 1024];
const DISKS = [40, 60, 80, 120, 250, 320, 500, 750, 1000, 2000, 3000, 4000, 6000, 8000, 12_000, 16_000, 20_000, 24_000];
const SOLID = [64, 120, 128, 240, 256, 480, 500, 512, 960, 1000, 1024, 2000, 2048, 4000, 4096, 8000];

/** Sizes that media are sold in, in GB; images have any size. */
export const SOLD_SIZES: Readonly<Record<MediumKind, readonly number[]>> = {
  disk: DISKS,
  'solid-state': SOLID,
  card: FLASH,
  stick: FLASH,
  'on-board': FLASH,
  image: [],
};

/**
 * Smallest capacity in bytes that a medium sold as `nominal` bytes is counted on to have.
 *
 * Disks of 50 GB and more in whole GB: the capacity formula of IDEMA document LBA1-03 (as
 * quoted by the trade), `97,696,368 + 1,953,504 × (GB − 50)` sectors of 512 bytes, or
 * `12,212,046 + 244,188 × (GB − 50)` of 4096. Everything else: `floor` per cent of the nominal
 * size, rounded down to 4 MiB for cards, sticks and on-board flash and to 1 MiB for the rest.
 */
export function nominalCapacity(kind: MediumKind, nominal: number, floor: number, logicalSector: 512 | 4096): number {
  const gigabytes = nominal / GB;
  const isDisk = kind === 'disk' || kind === 'solid-state';
  if (isDisk && gigabytes >= 50 && Number.isInteger(gigabytes)) {
    const [first, each] = logicalSector === 512 ? [97_696_368, 1_953_504] : [12_212_046, 244_188];
    return (first + each * (gigabytes - 50)) * logicalSector;
  }
  const step = usualFloor(kind) === 92 ? 4 * MIB : MIB;
  return alignDown(Math.floor((nominal / 100) * floor), step);
}

/** True where `nominalCapacity` uses the capacity formula and no floor. */
export function followsFormula(kind: MediumKind, nominal: number): boolean {
  return (kind === 'disk' || kind === 'solid-state') && nominal >= 50 * GB && nominal % GB === 0;
}
