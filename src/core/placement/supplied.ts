/** Files that a person supplied: which of their bytes go to which place. */
import type { Copied } from '../bytes/extents';
import { blobOf, HEAD } from '../filesystems/supplied';
import type { StoredPart } from '../filesystems/fields';
import { CODE_LENGTH } from '../tables/mbr';
import { isRaw, type PlacedRaw, type Placement } from './placement';

/** The bytes of a supplied file that are meant. */
function taken({ sha256, from = 0, take = Infinity, size }: StoredPart): Copied {
  return { from: sha256, at: from, length: Math.max(0, Math.min(take, size - from)) };
}

/** Part of a supplied file that a raw range takes. */
export function takenOf({ slot: { blob } }: PlacedRaw): Copied | undefined {
  return blob && taken(blob);
}

/** Part of a supplied file that the code area of sector 0 takes: of a whole sector its first 440 bytes. */
export function codeTaken(code: StoredPart | undefined): Copied | undefined {
  const copied = code && taken(code);
  if (!copied) return undefined;
  return copied.length === HEAD ? { ...copied, length: CODE_LENGTH } : copied;
}

/**
 * True where code of our own goes into sector 0: the layout asks for it, nothing else lies there, and beside a GPT
 * its sectors are those that the code reads.
 */
export function hasOwnCode({ layout, sectorSize, placed }: Placement): boolean {
  const { table, machine, boots } = layout;
  if (machine?.loaderFrom !== 'own code' || !boots.includes('bios')) return false;
  if (table.kind === 'none' || table.code !== undefined || (table.kind === 'gpt' && sectorSize !== 512)) return false;
  return !placed.filter(isRaw).some(({ span }) => span.start < CODE_LENGTH);
}

/** True where code goes into sector 0: our own, or supplied for the table or in a raw range; code that is all zeros is none. */
export function hasSectorCode(placement: Placement): boolean {
  if (hasOwnCode(placement)) return true;
  const { table } = placement.layout;
  const raws = placement.placed.filter(isRaw).filter(({ span }) => span.start < CODE_LENGTH);
  const all = [table.kind === 'none' ? undefined : codeTaken(table.code), ...raws.map(takenOf)];
  return all.some((copied) => copied !== undefined && copied.length > 0 && !isZeros(copied, placement));
}

/** True where the bytes are known to be zeros. */
export function isZeros({ from, at, length }: Copied, { contents }: Pick<Placement, 'contents'>): boolean {
  const facts = blobOf(from, contents);
  if (!facts || at + length > facts.head.length) return false;
  return facts.head.subarray(at, at + length).every((byte) => byte === 0);
}
