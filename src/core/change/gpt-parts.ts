/** The parts of a GPT that is written anew from one that was found: headers, and the copy at the end of a medium. */
import type { BlockSource } from '../bytes/blocks';
import type { FoundGpt } from '../survey/found';
import { arraySectors, encodeHeader, type GptHeader } from '../tables/gpt';
import type { Change } from './repairs';

/** The array of a copy, in whole sectors. */
export function arrayOf(copy: FoundGpt, sectorSize: number, source: BlockSource): Promise<Uint8Array> {
  return source.read(copy.array * sectorSize, arraySectors(copy, sectorSize) * sectorSize);
}

/** A header with other fields, in the sector that it names itself. */
export function headerPart(
  copy: FoundGpt,
  change: Partial<GptHeader> & { readonly here: number },
  sectorSize: number,
): Change[number] {
  const what = change.here === 1 ? 'GPT header' : 'GPT header, copy';
  return { what, at: change.here * sectorSize, bytes: encodeHeader({ ...copy, ...change }, sectorSize) };
}

/** A first header that names its copy in the last of `sectors`, and that copy; the entries stay as they are. */
export async function withCopyAt(
  first: FoundGpt,
  sectors: number,
  sectorSize: number,
  source: BlockSource,
): Promise<Change> {
  const [header, array] = [sectors - 1, sectors - 1 - arraySectors(first, sectorSize)];
  const lastUsable = array - 1;
  return [
    headerPart(first, { here: 1, other: header, lastUsable }, sectorSize),
    { what: 'GPT entries, copy', at: array * sectorSize, bytes: await arrayOf(first, sectorSize, source) },
    headerPart(first, { here: header, other: 1, array, lastUsable }, sectorSize),
  ];
}
