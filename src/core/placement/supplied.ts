/** Files that a person supplied: which of their bytes go to which place. */
import type { Copied } from '../bytes/extents';
import { shapeOf } from '../filesystems/fat/shape';
import { codeAt, codeRoom, type Variant } from '../filesystems/fat/variants';
import { blobOf, type BlobFacts, HEAD } from '../layout/contents';
import type { StoredPart } from '../layout/document';
import { CODE_LENGTH } from '../tables/mbr';
import { isRaw, type PlacedRaw, type Placement } from './placement';

/** Bytes of a whole boot sector: of a supplied file so long, only the part for code is taken. */
export const WHOLE_SECTOR = HEAD;

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
  return copied.length === WHOLE_SECTOR ? { ...copied, length: CODE_LENGTH } : copied;
}

/** True where code is supplied for sector 0, for the table or in a raw range; code that is all zeros is none. */
export function hasSectorCode(placement: Placement): boolean {
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

/** Boot code of a volume as it will stand there, and the byte of the sector that it is entered at. */
export interface VolumeCode {
  readonly bytes: Uint8Array;
  readonly entry: number;
}

/** Why a whole boot sector cannot lend its code to a volume, or may not. */
export type CodeTrouble =
  | { readonly kind: 'other variant'; readonly variant: Variant }
  | { readonly kind: 'jumps elsewhere'; readonly to: number }
  | { readonly kind: 'no jump' };

/** The byte to which the jump at the front of a boot sector leads; undefined where there is no jump. */
function jumpTarget(head: Uint8Array): number | undefined {
  if (head[0] === 0xeb) return 2 + head[1]!;
  return head[0] === 0xe9 ? 3 + head[1]! + head[2]! * 256 : undefined;
}

/** What speaks against taking the code of a supplied file for a volume of this variant: only a whole sector says anything. */
export function codeTrouble({ size, head }: BlobFacts, variant: Variant): CodeTrouble | undefined {
  if (size !== WHOLE_SECTOR) return undefined;
  const width = shapeOf(head)?.width;
  if (width !== undefined && (width === 32) !== (variant === 32)) return { kind: 'other variant', variant: width };
  const to = jumpTarget(head);
  if (to === undefined) return { kind: 'no jump' };
  const other = variant === 32 ? 16 : 32;
  if (to === codeAt(other)) return { kind: 'other variant', variant: other };
  return to < codeAt(variant) || to >= codeAt(variant) + codeRoom(variant)
    ? { kind: 'jumps elsewhere', to }
    : undefined;
}

/** Boot code of a volume, from a file with nothing else or with a whole boot sector; undefined where it is not known. */
export function volumeCode(facts: BlobFacts | undefined, variant: Variant): VolumeCode | undefined {
  if (!facts) return undefined;
  const usual = codeAt(variant);
  if (facts.size !== WHOLE_SECTOR)
    return { bytes: facts.head.subarray(0, Math.min(facts.size, codeRoom(variant))), entry: usual };
  return { bytes: facts.head.subarray(usual, usual + codeRoom(variant)), entry: jumpTarget(facts.head) ?? usual };
}
