/** An order to repack: the volume is checked as a whole first, and only what is sound goes along. */
import type { BlockSource } from '../../../bytes/blocks';
import { fail, ok, type Result } from '../../../quantity/result';
import { counted } from '../../../quantity/units';
import { checkExt, type CheckOptions } from '../check/check';
import { type Fault, FAULT_LIMIT } from '../check/faults';
import { replayWords } from '../replay/replay';
import { leavingOut } from './leaving';
import { minimaOf, type Numbering, repackable, type Repacked, repacked } from './repack';

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

/** Reads a volume, checks it, and says how it will be laid. Nothing is written. */
export async function orderRepack(
  source: BlockSource,
  base: number,
  available: number,
  { bytes, numbering, withoutFaulty }: RepackWish,
  options: CheckOptions = {},
): Promise<Result<Ordered, RepackRefusal>> {
  const refuse = (why: string) => fail({ why, faults: [] });
  const { checkpoint } = options;
  const found = await repackable(source, base, checkpoint);
  if (!found.ok) return refuse(found.error);
  let volume = found.value;
  const checked = await checkExt(volume.settled.view, base, available, options);
  const { faults } = checked;
  let leftOut: readonly string[] = [];
  if (faults.length > 0) {
    if (!withoutFaulty || !checked.volume || faults.length >= FAULT_LIMIT) return fail(refusedFor(faults));
    const staying = faults.find(({ code }) => STAYING.includes(code));
    if (staying) return fail({ why: `leaving files out does not mend it: ${staying.where}, ${staying.code}`, faults });
    const left = await leavingOut(volume, checked);
    if (!left.ok) return fail({ why: left.error, faults });
    volume = left.value.volume;
    leftOut = left.value.paths;
  }
  const wanted = bytes ?? minimaOf(volume)[numbering];
  if (wanted === undefined) return refuse('there is no length in which it has room');
  const made = await repacked(volume, wanted, numbering);
  if (!made.ok) return refuse(made.error);
  const words = [...replayWords(volume.settled.replay), ...made.value.words];
  return ok({ ...made.value, words, leftOut });
}
