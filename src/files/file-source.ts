/** Files as block sources. */
import type { FileHandle } from 'node:fs/promises';
import { type BlockSource, SourceShrank } from '@/core/bytes/blocks';

/**
 * An open file of `size` bytes as a block source. A read that comes up short rejects with
 * SourceShrank; `isHole` tells what is known to be zeros without reading.
 */
export function fileSource(handle: FileHandle, size: number, isHole?: BlockSource['isHole']): BlockSource {
  return {
    size,
    ...(isHole && { isHole }),
    read: async (offset, length, into = Buffer.allocUnsafeSlow(length)) => {
      const buffer = into.subarray(0, length);
      let done = 0;
      while (done < length) {
        const { bytesRead } = await handle.read(buffer, done, length - done, offset + done);
        if (bytesRead === 0) throw new SourceShrank(`the file ends at byte ${offset + done}, ${size} were there`);
        done += bytesRead;
      }
      return buffer;
    },
  };
}
