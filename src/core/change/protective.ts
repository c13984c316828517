/** The entry of sector 0 that protects a GPT ("Protective MBR" in the UEFI specification), written into a sector that exists. */
import { entryOffset, mbrEntry, PROTECTIVE, SECTOR_LIMIT } from '../tables/mbr';

/** Entries of a boot record, by their index. */
export const ENTRIES = [0, 1, 2, 3] as const;

const TYPE_AT = 4;

/** Index of the entry of `sector` that protects a GPT; undefined where there is none. */
export function protectivePlace(sector: Uint8Array): number | undefined {
  return ENTRIES.find((i) => sector[entryOffset(i) + TYPE_AT] === PROTECTIVE);
}

/** Makes an entry of `sector` protect everything ahead of sector `end`; a mark that somebody gave it for an old BIOS stays. */
export function protect(sector: Uint8Array, index: number, end: number): void {
  const at = entryOffset(index);
  const status = sector[at + TYPE_AT] === PROTECTIVE ? sector[at]! : 0;
  const count = Math.min(end - 1, SECTOR_LIMIT - 1);
  sector.set(mbrEntry({ active: false, type: PROTECTIVE, first: 1, count }), at);
  sector[at] = status;
}
