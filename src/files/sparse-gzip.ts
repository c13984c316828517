/**
 * Gzip (RFC 1952) of a file that is mostly zeros. A window of zeros is compressed once and its
 * bytes repeated; only windows that hold something pass through the compressor, beside other work. The
 * result is one ordinary gzip member. Everything is read: what the file holds is what is sent.
 */
import { MIB } from '@/core/quantity/units';
import type { FileHandle } from 'node:fs/promises';
import { promisify } from 'node:util';
import { constants, crc32, deflateRaw, type ZlibOptions } from 'node:zlib';
import { crcJoined } from '@/core/bytes/crc32';

const WINDOW = MIB;
/** Windows that are compressed at once. */
const AHEAD = 2;
const deflated = promisify<Buffer, ZlibOptions, Buffer>(deflateRaw);
const ZEROS = Buffer.alloc(WINDOW);

/** Ten bytes: magic, deflate, no flags, no time, no extra flags, system unknown (RFC 1952 §2.3). */
const HEADER = Buffer.of(0x1f, 0x8b, 8, 0, 0, 0, 0, 0, 0, 255);
/** A last block that is empty: final bit, fixed codes, end of block (RFC 1951 §3.2.6). */
const LAST_BLOCK = Buffer.of(0x03, 0x00);

/**
 * One window as deflate blocks that end on a byte and refer to nothing before them, so that
 * they can be put one behind the other.
 */
function blocksOf(window: Buffer): Promise<Buffer> {
  return deflated(window, { level: 6, finishFlush: constants.Z_SYNC_FLUSH });
}

/** Reads until the window is full or the file ends. */
async function fill(file: FileHandle, window: Buffer, position: number): Promise<Buffer> {
  let length = 0;
  while (length < window.length) {
    const { bytesRead } = await file.read(window, length, window.length - length, position + length);
    if (bytesRead === 0) break;
    length += bytesRead;
  }
  return window.subarray(0, length);
}

const CRC_OF_ZEROS = crc32(ZEROS);

/** The gzip stream of a file, in pieces. */
export async function* sparseGzip(file: FileHandle): AsyncGenerator<Buffer> {
  const zeroBlocks = await blocksOf(ZEROS);
  const windows = Array.from({ length: AHEAD }, () => Buffer.allocUnsafe(WINDOW));
  const made: Promise<Buffer>[] = [];
  let crc = 0;
  let position = 0;
  yield HEADER;
  for (let i = 0; ; i++) {
    // Its window is free again once it is there.
    if (made.length === AHEAD) yield await made.shift()!;
    const bytes = await fill(file, windows[i % AHEAD]!, position);
    if (bytes.length === 0) break;
    position += bytes.length;
    if (bytes.equals(ZEROS)) {
      crc = crcJoined(crc, CRC_OF_ZEROS, WINDOW);
      made.push(Promise.resolve(zeroBlocks));
    } else {
      crc = crc32(bytes, crc);
      made.push(blocksOf(bytes));
    }
  }
  for (const one of made) yield await one;
  const trailer = Buffer.alloc(8);
  trailer.writeUInt32LE(crc, 0);
  trailer.writeUInt32LE(position % 2 ** 32, 4);
  yield Buffer.concat([LAST_BLOCK, trailer]);
}
