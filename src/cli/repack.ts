/** `minimum` and `repack`: how small an ext volume of an image can be, and the volume in that or another length, in a new file. */
import type { CheckOptions } from '@/core/filesystems/ext/check/check';
import type { Fault } from '@/core/filesystems/ext/check/faults';
import { type Ordered, orderRepack, type RepackRefusal } from '@/core/filesystems/ext/repack/order';
import { type Minima, minimaOf, type Numbering, repackable } from '@/core/filesystems/ext/repack/repack';
import { isExt } from '@/core/filesystems/readers';
import { amountInBytes, parseExact } from '@/core/quantity/size-language';
import { counted, grouped, inBinary, inBoth } from '@/core/quantity/units';
import type { FoundPartition } from '@/core/survey/found';
import { named } from '@/core/survey/structures';
import { NotSound, StillFaulty, writeRepacked } from '@/files/repacked-image';
import { answerText } from './answering';
import { type IntoArguments, madeOf } from './changed';
import { Ended, EXIT, type Exit, interrupted } from './exit';
import { chosen, type VolumeArguments } from './files';
import type { Io } from './io';
import { surveyed, withImage } from './open-image';
import { printable, word } from './text';

export interface RepackArguments extends VolumeArguments, IntoArguments {
  /** A size of the size language; the fewest bytes, where none is said. */
  readonly size?: string;
  readonly keepNumbers?: boolean;
  readonly withoutFaulty?: boolean;
}

const canBe = ({ inside }: FoundPartition) => inside.kind === 'known' && isExt(inside.content);

const lengthText = (bytes: number | undefined, block: number, why: string) =>
  bytes === undefined ? why : `${inBoth(bytes)}, ${counted(bytes / block, 'block')} of ${grouped(block)} bytes`;

function minimaText(what: string, minima: Minima): string {
  const { block, bytes, renumbered, kept, mustKeep, inodes, highest } = minima;
  const anew = mustKeep ? 'its numbers may not change: keys of its files depend on them' : 'no length serves';
  return [
    `${what}: ${lengthText(bytes, block, '')}`,
    `  least, with inodes numbered anew: ${lengthText(renumbered, block, anew)}`,
    `  least, with the numbers kept:     ${lengthText(kept, block, 'no length serves')}`,
    `  ${counted(inodes, 'inode')} in use, the highest has number ${grouped(highest)}`,
  ]
    .map((line) => `${line}\n`)
    .join('');
}

/** `minimum`: how small the ext volumes of an image can be. */
export function minimum(io: Io, image: string, options: VolumeArguments): Promise<Exit> {
  return withImage(image, async (source) => {
    const survey = await surveyed(source, options.sectorSize);
    const all =
      options.partition === undefined
        ? survey.partitions.filter(canBe)
        : [chosen(survey, image, options, canBe, 'ext volume')];
    if (all.length === 0) throw new Ended(EXIT.usage, 'no-such-volume', `“${image}” holds no ext volume.`);
    const told = [];
    for (const one of all) {
      const volume = await repackable(source, one.start * survey.sectorSize);
      told.push(
        volume.ok
          ? { one, minima: minimaOf(volume.value), refused: undefined }
          : { one, minima: undefined, refused: volume.error },
      );
    }
    io.out(
      options.json
        ? answerText('minimum', {
            volumes: told.map(({ one, minima, refused }) => ({ partition: one.key, ...(minima ?? { refused }) })),
          })
        : printable(
            told
              .map(({ one, minima, refused }) =>
                minima ? minimaText(named(one), minima) : `${named(one)}: it cannot be repacked: ${refused}.\n`,
              )
              .join(''),
          ),
    );
    return told.some(({ minima }) => minima === undefined) ? EXIT.stop : EXIT.done;
  });
}

function faultLine({ code, where, says, files }: Fault): string {
  return `${where}, ${code}: ${says}${files ? ` (${files.map(word).join(' ')})` : ''}`;
}

function refusal(image: string, one: FoundPartition, { why, faults }: RepackRefusal): Ended {
  const isFaulty = faults.length > 0;
  return new Ended(
    EXIT.stop,
    isFaulty ? 'volume-faulty' : 'not-repacked',
    `${named(one)} of “${image}” is not repacked: ${why}.${isFaulty ? ' With --without-faulty the files that are named do not go along.' : ''}`,
    faults.map(faultLine),
  );
}

function sizeOf(text: string | undefined, sectorSize: number): number | undefined {
  if (text === undefined || text === 'minimum') return undefined;
  const amount = parseExact(text);
  if (!amount.ok)
    throw new Ended(
      EXIT.usage,
      'usage-size',
      `“${text}” is no size: say for example 512 MiB, 40 GB or 2048 sectors; or minimum.`,
    );
  return amountInBytes(amount.value, sectorSize);
}

/** Lines about what does not go along. */
const leftText = ({ leftOut }: Ordered) =>
  leftOut.length === 0
    ? ''
    : `${counted(leftOut.length, 'entry', 'entries')} of it do not go along:\n${leftOut.map((one) => `  ${one}\n`).join('')}`;

/** Writes the volume; how many bytes were compared. */
async function written(
  io: Io,
  image: string,
  one: FoundPartition,
  order: Ordered,
  options: RepackArguments & { readonly into: string },
): Promise<number> {
  const { written: bytes } = await madeOf(
    io,
    image,
    options.into,
    options,
    (file) => writeRepacked({ from: image, order, ...file }),
    (error) => {
      if (error instanceof NotSound) return refusal(image, one, error.refusal);
      if (error instanceof StillFaulty)
        return new Ended(EXIT.stop, 'still-faulty', `${error.message} Nothing was left.`);
      return undefined;
    },
  );
  return bytes;
}

/** `repack`: an ext volume of an image in another length, in a new file of its own. */
export function repack(io: Io, image: string, options: RepackArguments): Promise<Exit> {
  const { into, json, keepNumbers, withoutFaulty } = options;
  return withImage(image, async (source) => {
    const survey = await surveyed(source, options.sectorSize);
    const { sectorSize } = survey;
    const bytes = sizeOf(options.size, sectorSize);
    const one = chosen(survey, image, options, canBe, 'ext volume');
    const numbering: Numbering = keepNumbers ? 'kept' : 'renumbered';
    const progress = (text: string) => io.isTerminal && !json && io.error(text);
    const checking: CheckOptions = {
      checkpoint: () => {
        if (io.signal.aborted) throw interrupted(io.signal);
      },
      onProgress: (phase, done, total) =>
        progress(`\r\u001b[K${phase}${total > 0 ? `, ${inBinary(done)} of ${inBinary(total)}` : ''}`),
    };
    const wish = { bytes, numbering, withoutFaulty };
    const order = await orderRepack(source, one.start * sectorSize, one.sectors * sectorSize, wish, checking);
    if (!order.ok) throw refusal(image, one, order.error);
    // Nothing is shown of what would not be made; what is written is checked beside that.
    const amiss = into === undefined ? await order.value.sound(checking) : undefined;
    progress('\r\u001b[K');
    if (amiss) throw refusal(image, one, amiss);
    const { bytes: size, block, free, words, leftOut } = order.value;
    const compared = into === undefined ? undefined : await written(io, image, one, order.value, { ...options, into });
    const now = into === undefined ? 'would have' : 'has';
    const wrote =
      into === undefined
        ? ''
        : `${into}: ${inBoth(compared!)} were written and compared, byte by byte; the rest is holes.\n`;
    io.out(
      json
        ? answerText('repack', {
            partition: one.key,
            size,
            block,
            free,
            words: [...words],
            leftOut: [...leftOut],
            file: into,
          })
        : printable(
            `${named(one)} ${now} ${inBoth(size)}, ${counted(size / block, 'block')} of ${grouped(block)} bytes; ${inBoth(free)} of them free.\n` +
              words.map((text) => `${text}\n`).join('') +
              leftText(order.value) +
              wrote,
          ),
    );
    return EXIT.done;
  });
}
