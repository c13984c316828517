/** Boot code that was supplied for a FAT volume: a file with nothing else, or a whole boot sector. */
import { type BlobFacts, HEAD } from '../supplied';
import { shapeOf } from './header';
import { codeAt, codeRoom, type Variant } from './variants';

/** Bytes of a whole boot sector: of a supplied file so long, only the part for code is taken. */
export const WHOLE_SECTOR = HEAD;

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
