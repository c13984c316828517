/** An order to repack: the volume is checked as a whole first, and only what is sound goes along. */
import type { BlockSource } from '../../../bytes/blocks';
import { fail, ok, type Result } from '../../../quantity/result';
import { counted } from '../../../quantity/units';
import { checkExt, type CheckOptions } from '../check/check';
import { type Fault, FAULT_LIMIT } from '../check/faults';
import { replayWords } from '../replay/replay';
import { leavingOut, type Left } from './leaving';
import {
  leastBytes,
  type Numbering,
  type Repackable,
  repackable,
  type Repacked,
  repacked,
  type RepackedRange,
} from './repack';

/** What is asked for. */
export interface RepackWish {
  /** Bytes that it may have; the fewest, where none are said. */
  readonly bytes?: number | undefined;
  readonly numbering: Numbering;
  /** What the checker named does not go along; a volume with faults is refused otherwise. */
  readonly withoutFaulty?: boolean | undefined;
}

/** A volume that can be written. */
export interface Ordered extends Repacked {
  /** Paths that do not go along. */
  readonly leftOut: readonly string[];
  /**
   * Checks the volume as it is, beside the writing of it or ahead of that; gives why nothing may come of it. Of a volume that
   * files were left out of, that is known already.
   */
  readonly sound: (options?: CheckOptions) => Promise<RepackRefusal | undefined>;
}

/** Why it cannot be done, with the faults where those are why. */
export interface RepackRefusal {
  readonly why: string;
  readonly faults: readonly Fault[];
}

/** Faults of the whole volume that laying its files anew does not mend. */
const STAYING: readonly Fault['code'][] = [
  'superblock/features',
  'superblock/hash',
  'superblock/reserved blocks',
  'superblock/room for descriptors',
  'journal/magic',
  'journal/blocks',
  'journal/block size',
  'journal/not empty',
  'journal/missing',
];

function refusedFor(faults: readonly Fault[]): RepackRefusal {
  const why =
    faults.length >= FAULT_LIMIT
      ? `it has ${FAULT_LIMIT} faults and more`
      : `it has ${counted(faults.length, 'fault')}`;
  return { why, faults };
}

/** What is left of a volume without the files that its check names. */
async function withoutFaulty(
  volume: Repackable,
  available: number,
  options: CheckOptions,
): Promise<Result<Left, RepackRefusal>> {
  const checked = await checkExt(volume.settled.view, volume.base, available, options);
  const { faults } = checked;
  if (faults.length === 0) return ok({ volume, paths: [] });
  if (!checked.volume || faults.length >= FAULT_LIMIT) return fail(refusedFor(faults));
  const staying = faults.find(({ code }) => STAYING.includes(code));
  if (staying) return fail({ why: `leaving files out does not mend it: ${staying.where}, ${staying.code}`, faults });
  const left = await leavingOut(volume, checked);
  return left.ok ? left : fail({ why: left.error, faults });
}

/**
 * Reads a volume and says how it will be laid; whether it is sound is asked of the answer. Nothing is written. The options
 * are for a check that has to come first, because what it names is left out.
 */
export async function orderRepack(
  source: BlockSource,
  base: number,
  available: number,
  wish: RepackWish,
  options: CheckOptions = {},
): Promise<Result<Ordered, RepackRefusal>> {
  const refuse = (why: string) => fail({ why, faults: [] });
  const found = await repackable(source, base, options.checkpoint, wish.withoutFaulty);
  if (!found.ok) return refuse(found.error);
  const left = wish.withoutFaulty
    ? await withoutFaulty(found.value, available, options)
    : ok<Left>({ volume: found.value, paths: [] });
  if (!left.ok) return left;
  const { volume, paths } = left.value;
  const wanted = wish.bytes ?? leastBytes(volume, wish.numbering);
  if (wanted === undefined) return refuse('there is no length in which it has room');
  const made = await repacked(volume, wanted, wish.numbering);
  if (!made.ok) return refuse(made.error);
  return ok({
    ...made.value,
    words: [...replayWords(volume.settled.replay), ...made.value.words],
    leftOut: paths,
    async sound(checking = {}) {
      if (wish.withoutFaulty) return undefined;
      const { faults } = await checkExt(volume.settled.view, base, available, checking);
      return faults.length === 0 ? undefined : refusedFor(faults);
    },
  });
}

/** All that is written of a volume at a byte of a source, in a place of so many bytes, when it is laid anew once it was checked, or why it is not. */
export async function laidAnew(
  source: BlockSource,
  base: number,
  available: number,
  wish: RepackWish,
): Promise<Result<readonly RepackedRange[], RepackRefusal>> {
  const order = await orderRepack(source, base, available, wish);
  if (!order.ok) return order;
  const refusal = await order.value.sound();
  if (refusal) return fail(refusal);
  const ranges: RepackedRange[] = [];
  for await (const range of order.value.ranges()) ranges.push(range);
  return ok(ranges);
}
