/** The grain: the unit on which partitions start. One ordered rule decides it. */
import { inBinary } from '../quantity/units';
import { lcm } from '../quantity/integers';
import { isPlainFlash, KIND_NAMES, type Medium } from './medium';

/** The grain in force and the sentence that says why it is so. */
export interface Grain {
  readonly bytes: number;
  readonly sectors: number;
  readonly rule: 'chosen' | 'base' | 'write-unit';
  readonly because: string;
}

const KIB = 1024;
const MIB = 1024 * KIB;
const GIB = 1024 * MIB;

function base(medium: Medium): { bytes: number; because: string } {
  const { capacity, kind, physicalSector, writeUnit } = medium;
  if (capacity < 4 * MIB) return { bytes: physicalSector, because: 'one physical sector on media under 4 MiB' };
  if (capacity < 64 * MIB) return { bytes: 64 * KIB, because: '64 KiB on media under 64 MiB' };
  if (isPlainFlash(kind) && capacity >= GIB && writeUnit === 0)
    return {
      bytes: 4 * MIB,
      because: `4 MiB on a ${KIND_NAMES[kind]} of 1 GiB and more whose write unit is not known`,
    };
  return { bytes: MIB, because: 'the usual 1 MiB' };
}

/**
 * The grain for a medium. `chosen` is a grain in bytes set by a person (a multiple of the
 * logical sector), which comes before every rule; without it the base by size and kind is
 * raised to its least common multiple with the physical sector and the known write unit.
 */
export function grainFor(medium: Medium, chosen?: number): Grain {
  if (chosen !== undefined)
    return {
      bytes: chosen,
      sectors: chosen / medium.logicalSector,
      rule: 'chosen',
      because: `${inBinary(chosen)}, chosen for this layout`,
    };
  const start = base(medium);
  const withSector = lcm(start.bytes, medium.physicalSector);
  const bytes = medium.writeUnit > 0 ? lcm(withSector, medium.writeUnit) : withSector;
  const raised = bytes > start.bytes;
  return {
    bytes,
    sectors: bytes / medium.logicalSector,
    rule: raised ? 'write-unit' : 'base',
    because: raised
      ? `${inBinary(bytes)}: ${start.because}, raised to the write unit of ${inBinary(medium.writeUnit || medium.physicalSector)}`
      : `${inBinary(bytes)}: ${start.because}`,
  };
}
