/** A volume of a made-up tree in a sparse file, for measurements. */
import { closeSync, ftruncateSync, openSync, writeSync } from 'node:fs';
import { type ExtWish, makeExt } from '@tests/ext';
import type { Shelf } from '@tests/filled';
import type { Tree } from '@/core/filesystems/tree';

/** Makes the volume and writes it into a new file of its size; zeros stay holes. */
export function layVolume(file: string, wish: ExtWish, tree: Tree, shelf: Shelf): void {
  const volume = makeExt(wish, tree);
  if (typeof volume === 'string') throw new Error(volume);
  const out = openSync(file, 'wx');
  ftruncateSync(out, wish.bytes);
  for (const { extent } of volume.ranges)
    if ('bytes' in extent) writeSync(out, extent.bytes, 0, extent.bytes.length, extent.offset);
    else if ('copied' in extent) {
      const { from, at, length } = extent.copied;
      writeSync(out, shelf.contents.get(from)!, at, length, extent.offset);
    }
  closeSync(out);
}
