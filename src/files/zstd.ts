/**
 * Zstandard (RFC 8878): frame by frame, each with the sum of its content compared where it has one,
 * which the library that unpacks them leaves to others.
 */
import { Decompress } from 'fzstd';
import xxhash from 'xxhash-wasm';
import { MIB } from '@/core/quantity/units';
import { Taking } from './taking';

/** 3.1.1 and 3.1.2. */
const FRAME = 0xfd2fb528;
const SKIPPABLE = 0x184d2a50;
/** Bytes of the dictionary id and of the content size, by their flags (3.1.1.1.1). */
const DICTIONARY_BYTES = [0, 1, 2, 4];
const CONTENT_BYTES = [0, 2, 4, 8];
/** 3.1.1.2.2: block types. */
const [RUN, RESERVED] = [1, 3];

/** Longest window that is held, in bytes: what compressors use where nobody asks for a longer one. */
const MOST_WINDOW = 128 * MIB;

/** 3.1.1.1.2: the window that a descriptor says, in bytes. */
const windowOf = (descriptor: number) => 2 ** (10 + (descriptor >> 3)) * (1 + (descriptor & 7) / 8);

function numberOf(bytes: Uint8Array): number {
  return bytes.reduceRight((value, byte) => value * 256 + byte, 0);
}

async function needed(taking: Taking, count: number): Promise<Uint8Array> {
  const bytes = await taking.exactly(count);
  if (!bytes && count > 0) throw new Error('it ends too early');
  return bytes ?? new Uint8Array(0);
}

/** The bytes that were compressed. Rejects with an Error where they cannot be had, or have another sum. */
export async function* unzstd(body: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const { create64 } = await xxhash();
  const taking = new Taking(body);
  for (let magic = await taking.exactly(4); magic; magic = await taking.exactly(4)) {
    const kind = numberOf(magic);
    if (kind - (kind % 16) === SKIPPABLE) {
      for (let left = numberOf(await needed(taking, 4)); left > 0;) {
        const part = await taking.some(left);
        if (!part) throw new Error('it ends too early');
        left -= part.length;
      }
      continue;
    }
    if (kind !== FRAME) throw new Error('something else follows what is compressed');
    let out: Uint8Array[] = [];
    const frame = new Decompress((chunk) => out.push(chunk));
    const sum = create64();
    const unpacked = function* () {
      for (const chunk of out) sum.update(chunk);
      yield* out;
      out = [];
    };
    const [flags] = (await needed(taking, 1)) as unknown as [number];
    const isSingle = (flags & 0x20) !== 0;
    const contentBytes = CONTENT_BYTES[flags >> 6]! || (isSingle ? 1 : 0);
    const rest = await needed(taking, (isSingle ? 0 : 1) + DICTIONARY_BYTES[flags & 3]! + contentBytes);
    const window = isSingle ? numberOf(rest.subarray(rest.length - contentBytes)) : windowOf(rest[0]!);
    if (window > MOST_WINDOW)
      throw new Error(
        `it looks back further than ${MOST_WINDOW / MIB} MiB; compress it again with a window that is not as long`,
      );
    frame.push(Uint8Array.of(...magic, flags, ...rest));
    for (let isLast = false; !isLast;) {
      const header = await needed(taking, 3);
      const said = numberOf(header);
      const type = (said >> 1) & 3;
      if (type === RESERVED) throw new Error('a block in it is of an unknown kind');
      isLast = (said & 1) !== 0;
      frame.push(header);
      frame.push(await needed(taking, type === RUN ? 1 : said >> 3));
      yield* unpacked();
    }
    if ((flags & 4) === 0) continue;
    const meant = await needed(taking, 4);
    frame.push(meant, true);
    yield* unpacked();
    if (Number(sum.digest() & 0xffffffffn) !== numberOf(meant)) throw new Error('a frame in it has another sum');
  }
}
