/** Files that a person supplied: which of their bytes go to which place. */
import type { Copied } from '../bytes/extents';
import { codeAt, codeRoom, type Variant } from '../filesystems/fat/variants';
import { blobOf, type BlobFacts, HEAD } from '../layout/contents';
import type { Stored } from '../layout/document';
import { CODE_LENGTH } from '../tables/mbr';
import { isRaw, type Placed, type PlacedRaw, type Placement } from './placement';

/** Bytes of a whole boot sector: of a supplied file so long, only the part for code is taken. */
export const WHOLE_SECTOR = HEAD;

/** Boot code of a volume as it will stand there, from a file with nothing else or with a whole boot sector; undefined where it is not known. */
export function volumeCode(facts: BlobFacts | undefined, variant: Variant): Uint8Array | undefined {
  if (!facts) return undefined;
  const from = facts.size === WHOLE_SECTOR ? codeAt(variant) : 0;
  return facts.head.subarray(from, Math.min(facts.size, from + codeRoom(variant)));
}

/** Part of a supplied file that a raw range takes. */
export function takenOf({ slot }: PlacedRaw): Copied | undefined {
  const { blob } = slot;
  if (!blob) return undefined;
  const from = blob.from ?? 0;
  return { from: blob.sha256, at: from, length: Math.max(0, Math.min(blob.take ?? Infinity, blob.size - from)) };
}

/** True for a raw range in the code area of a sector that has a table behind it: its bytes are written with the table. */
export function isInCodeArea(placement: Placement, { span }: Placed): boolean {
  return placement.layout.table.kind !== 'none' && span.start === 0 && span.end <= CODE_LENGTH;
}

/** Boot code for sector 0: supplied for the table, or in a raw range that lies there. */
export function sectorCode(placement: Placement): Uint8Array {
  const { table } = placement.layout;
  const supplied: Stored | undefined = table.kind === 'none' ? undefined : table.code;
  const code = blobOf(supplied?.sha256, placement.contents);
  if (code) return code.head.subarray(0, Math.min(CODE_LENGTH, code.size));
  const raw = placement.placed.filter(isRaw).find((one) => one.slot.blob && isInCodeArea(placement, one));
  const taken = raw && takenOf(raw);
  const facts = blobOf(taken?.from, placement.contents);
  if (!raw || !taken || !facts) return new Uint8Array(0);
  return facts.head.subarray(taken.at, taken.at + Math.min(taken.length, raw.span.end));
}
