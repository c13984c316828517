/** Attributes of a repacked volume: their bytes stay, but for the numbers of inodes that hold values ("Extended Attributes"). */
import type { AttributePlace } from '../attribute-places';
import type { NumberOf } from './folders';

const [SECURITY, TRUSTED] = [6, 4];

/** Puts the new numbers of inodes that hold values into entries. */
export function renumberValues(bytes: Uint8Array, all: Iterable<AttributePlace>, numberOf: NumberOf): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  for (const { at, inode } of all) if (inode !== 0) view.setUint32(at + 4, numberOf(inode) ?? 0, true);
}

/** What depends on the number of the inode that has it: a signature over what was measured, or the origin of a file in layers. */
export function dependsOnNumber({ index, name }: AttributePlace): 'signature' | 'origin' | undefined {
  if (index === SECURITY && name === 'evm') return 'signature';
  return index === TRUSTED && (name === 'overlay.origin' || name === 'overlay.upper') ? 'origin' : undefined;
}
