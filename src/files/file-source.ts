/** Files as block sources. */
import type { FileHandle } from 'node:fs/promises';
import { type BlockSource, SourceShrank } from '@/core/bytes/blocks';

/** Reads of a file at a position into a part of a buffer, as much as comes at once. */
type ReadAt = (
  buffer: Uint8Array,
  offset: number,
  length: number,
  position: number,
) => Promise<{ readonly bytesRead: number }>;

/**
 * What can be read at positions, `size` bytes long, as a block source. A read that comes up short rejects with
 * SourceShrank; `isHole` tells what is known to be zeros without reading.
 */
export function positionSource(readAt: ReadAt, size: number, isHole?: BlockSource['isHole']): BlockSource {
  return {
    size,
    ...(isHole && { isHole }),
    read: async (offset, length, into = Buffer.allocUnsafeSlow(length)) => {
      const buffer = into.subarray(0, length);
      let done = 0;
      while (done < length) {
        const { bytesRead } = await readAt(buffer, done, length - done, offset + done);
        if (bytesRead === 0) throw new SourceShrank(`the file ends at byte ${offset + done}, ${size} were there`);
        done += bytesRead;
      }
      return buffer;
    },
  };
}

/** An open file of `size` bytes as a block source. */
export function fileSource(handle: FileHandle, size: number, isHole?: BlockSource['isHole']): BlockSource {
  return positionSource((...part) => handle.read(...part), size, isHole);
}
