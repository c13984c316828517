/** Takes away what an archive is compressed with: gzip, zstd or xz. */
import type { ReadableStream as WebStream } from 'node:stream/web';
import { Readable } from 'node:stream';
import type * as Xz from 'xz-decompress';
import { createGunzip } from 'node:zlib';

export type Compression = 'gzip' | 'zstd' | 'xz';

const MAGIC: readonly (readonly [Compression, readonly number[]])[] = [
  ['gzip', [0x1f, 0x8b]],
  ['zstd', [0x28, 0xb5, 0x2f, 0xfd]],
  ['xz', [0xfd, 0x37, 0x7a, 0x58, 0x5a, 0x00]],
];

/** What something is compressed with, by its first bytes. */
export function compressionOf(head: Uint8Array): Compression | undefined {
  // A frame of zstd to be passed over may come first.
  const isPassedOver = (head[0]! & 0xf0) === 0x50 && head[1] === 0x2a && head[2] === 0x4d && head[3] === 0x18;
  return isPassedOver ? 'zstd' : MAGIC.find(([, bytes]) => bytes.every((byte, i) => head[i] === byte))?.[0];
}

async function* unzstd(body: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const frames = await import('./zstd').then((one) => one.unzstd);
  yield* frames(body);
}

/** What the library says of sums and filters that it does not know. */
const XZ_OPTIONS = 6;
const XZ_UNREAD =
  'it is compressed with sums or filters that are not read here, such as sums of SHA-256; compress it again with the usual ones, or send it without';

type Loaded = typeof Xz;

async function* unxz(body: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const loaded = (await import('xz-decompress')) as Loaded & { readonly default?: Loaded };
  const { XzReadableStream } = loaded.default ?? loaded;
  const source = Readable.toWeb(Readable.from(body)) as ConstructorParameters<typeof XzReadableStream>[0];
  const stream = new XzReadableStream(source) as unknown as WebStream<Uint8Array>;
  try {
    for await (const chunk of stream) yield chunk;
  } catch (error) {
    // The library says a number.
    const [, code] = /error code (\d+)/.exec(error instanceof Error ? error.message : '') ?? [];
    if (code === undefined) throw error;
    const isUnknown = Number(code) === XZ_OPTIONS;
    throw new Error(isUnknown ? XZ_UNREAD : 'what is compressed is damaged, or ends too early', { cause: error });
  }
}

async function* gunzip(body: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const source = Readable.from(body);
  const plain = source.pipe(createGunzip());
  // A failure on the way in ends the reading too.
  source.on('error', (error) => plain.destroy(error));
  try {
    for await (const chunk of plain) yield chunk as Uint8Array;
  } finally {
    source.destroy();
  }
}

/** The bytes that were compressed. Rejects where they cannot be had. */
export function decompressed(body: AsyncIterable<Uint8Array>, how: Compression): AsyncGenerator<Uint8Array> {
  return { gzip: gunzip, zstd: unzstd, xz: unxz }[how](body);
}
