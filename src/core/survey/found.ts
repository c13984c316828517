/**
 * What a survey finds. Everything here is plain data that survives JSON: a number that a
 * medium claims and that no medium can have is the largest safe integer.
 */
import type { Inside } from '../filesystems/readers';
import type { KnownContent } from '../filesystems/signatures';
import type { GptHeader } from '../tables/gpt';
import type { RawEntry } from '../tables/mbr';

/** One copy of a GPT: what its header says, and whether that can be believed. */
export interface FoundGpt extends Omit<GptHeader, 'sound'> {
  /** Sector in which the header was found. */
  readonly sector: number;
  readonly headerSound: boolean;
  /** The checksum of the array is right; undefined where the array could not be read. */
  readonly arraySound: boolean | undefined;
}

/** Something odd about a chain of logical partitions. `sector` is that of the record where it was met. */
export interface ChainTrouble {
  readonly kind:
    | 'loops'
    | 'leaves the container'
    | 'has no boot record mark'
    | 'is longer than is followed'
    | 'begins with an empty record'
    | 'is out of disk order'
    | 'has more than two entries in a record'
    | 'names a partition outside of the container';
  readonly sector: number;
}

/** A partition, a container, or the file system of a medium without a table. */
export interface FoundPartition {
  /** Unique in the survey. */
  readonly key: string;
  readonly kind: 'primary' | 'container' | 'logical' | 'gpt' | 'whole medium';
  readonly number: number;
  readonly start: number;
  readonly sectors: number;
  readonly type: string;
  readonly active: boolean;
  /** Status byte of an MBR entry, or 0. */
  readonly status: number;
  readonly id: string;
  readonly name: string;
  readonly attributes: readonly string[];
  readonly inside: Inside;
  /** Sector of the record that holds the entry: 0, or that of the chain. */
  readonly recordAt: number;
}

/** Space that no partition and no table claims. */
export interface FoundGap {
  readonly start: number;
  readonly sectors: number;
  /** Byte of the medium at which the first data was seen; undefined where only zeros were seen. */
  readonly dataAt: number | undefined;
  /** False where the gap was only sampled. */
  readonly seenWhole: boolean;
}

/** Something of an earlier use of the medium. */
export interface Leftover {
  readonly sector: number;
  readonly what: string;
}

export interface FoundMbr {
  readonly signature: number;
  /** Its records that are not all zero, as they stand: believed only where there is a table. */
  readonly records: readonly RawEntry[];
  readonly hasCode: boolean;
  /** Sectors that the protective entry counts; undefined without one. */
  readonly protectiveCount: number | undefined;
  /** The protective entry is marked active, against the specification. */
  readonly protectiveActive: boolean;
}

/** What a medium says of itself. */
export interface Survey {
  readonly size: number;
  readonly sectorSize: 512 | 4096;
  /** Whole sectors. */
  readonly sectors: number;
  readonly table: 'mbr' | 'gpt' | 'none';
  readonly mbr: FoundMbr | undefined;
  readonly gpt: { readonly first: FoundGpt | undefined; readonly copy: FoundGpt | undefined };
  /** Both sound copies list the same partitions. */
  readonly gptCopiesAgree: boolean;
  /** The other sector size, when a GPT for it was found. */
  readonly otherSectorSize: 512 | 4096 | undefined;
  /** In the order of the table, logical partitions behind their container. */
  readonly partitions: readonly FoundPartition[];
  readonly chain: readonly ChainTrouble[];
  readonly gaps: readonly FoundGap[];
  readonly leftovers: readonly Leftover[];
  /** An ISO 9660 file system over the whole medium, beside the table: installer images are made so. */
  readonly iso: KnownContent | undefined;
  /** Keys of partitions, and gaps by their first sector, that were not looked at in full: it would have gone beyond the budget. */
  readonly unread: readonly string[];
  /** Bytes that were read. */
  readonly read: number;
}

/** True for an entry of an MBR beside a GPT: it shows something a second time, or what the GPT does not. */
export function isBeside({ key }: Pick<FoundPartition, 'key'>): boolean {
  return key.startsWith('mbr-');
}

/** Last sector of a partition, inclusive. */
export function lastOf({ start, sectors }: { readonly start: number; readonly sectors: number }): number {
  return start + sectors - 1;
}

/** The copy of a GPT that counts: the first that is sound in all, else the other one. */
export function authority({ gpt }: Pick<Survey, 'gpt'>): FoundGpt | undefined {
  const isSound = (copy: FoundGpt | undefined) => copy?.headerSound && copy.arraySound;
  if (isSound(gpt.first)) return gpt.first;
  if (isSound(gpt.copy)) return gpt.copy;
  return undefined;
}
