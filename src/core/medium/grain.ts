/** The grain: the unit on which partitions start. One ordered rule decides it. */
import { GIB, inBinary, KIB, MIB } from '../quantity/units';
import { lcm } from '../quantity/integers';
import { isPlainFlash, KIND_NAMES, type Medium } from './medium';

/** The grain in force and the sentence that says why it is so. */
export interface Grain {
  readonly bytes: number;
  readonly sectors: number;
  readonly rule: 'chosen' | 'cylinders' | 'base' | 'raised';
  readonly because: string;
  /** True when the optimal I/O size of the medium was not heeded. */
  readonly ignoresOptimalIo: boolean;
  /** Sector of the first partition where that is off the grain: 63 with cylinders. */
  readonly first?: number;
}

/** Sectors of a cylinder (255 heads of 63 sectors), and of a track. */
const CYLINDER = 255 * 63;
const TRACK = 63;

/** An optimal I/O size that would make the grain larger than this is a misreport. */
const LARGEST_WITH_IO = 64 * MIB;

function base(medium: Medium): { bytes: number; because: string } {
  const { capacity, kind, physicalSector, writeUnit } = medium;
  if (capacity < 4 * MIB) return { bytes: physicalSector, because: 'for media under 4 MiB, one physical sector' };
  if (capacity < 64 * MIB) return { bytes: 64 * KIB, because: 'for media under 64 MiB' };
  if (isPlainFlash(kind) && capacity >= GIB && writeUnit === 0)
    return {
      bytes: 4 * MIB,
      because: `for a ${KIND_NAMES[kind]} of 1 GiB and more whose write unit is not known`,
    };
  return { bytes: MIB, because: 'as usual' };
}

/** Raises the grain to the optimal I/O size, unless that is off the physical sector or leads too far. */
function withOptimalIo(bytes: number, { optimalIo, physicalSector }: Medium): { bytes: number; isIgnored: boolean } {
  if (optimalIo === 0) return { bytes, isIgnored: false };
  const raised = optimalIo % physicalSector === 0 ? lcm(bytes, optimalIo) : Infinity;
  return raised <= LARGEST_WITH_IO ? { bytes: raised, isIgnored: false } : { bytes, isIgnored: true };
}

/** The grain of machines that compute with cylinders: the first partition at sector 63, the others on cylinders. */
function legacyGrain({ logicalSector }: Medium): Grain {
  return {
    bytes: CYLINDER * logicalSector,
    sectors: CYLINDER,
    rule: 'cylinders',
    because: `cylinders of 255 heads and 63 sectors, ${inBinary(CYLINDER * logicalSector)}, chosen for machines that compute with them`,
    ignoresOptimalIo: false,
    first: TRACK,
  };
}

/**
 * The grain for a medium. `chosen` is a grain in bytes set by a person (a multiple of the
 * logical sector), or `cylinders`, which comes before every rule; without it the base by size and kind is
 * raised to its least common multiple with the physical sector, the known write unit, and the
 * optimal I/O size where that makes sense.
 */
export function grainFor(medium: Medium, chosen?: number | 'cylinders'): Grain {
  if (chosen === 'cylinders') return legacyGrain(medium);
  if (chosen !== undefined)
    return {
      bytes: chosen,
      sectors: chosen / medium.logicalSector,
      rule: 'chosen',
      because: `${inBinary(chosen)}, chosen for this layout`,
      ignoresOptimalIo: false,
    };
  const start = base(medium);
  const withSector = lcm(start.bytes, medium.physicalSector);
  const withUnit = medium.writeUnit > 0 ? lcm(withSector, medium.writeUnit) : withSector;
  const { bytes, isIgnored } = withOptimalIo(withUnit, medium);
  const raises = [
    ...(withSector > start.bytes ? ['the physical sector'] : []),
    ...(withUnit > withSector ? [`the write unit of ${inBinary(medium.writeUnit)}`] : []),
    ...(bytes > withUnit ? [`the optimal I/O size of ${inBinary(medium.optimalIo)}`] : []),
  ];
  const because = `${inBinary(start.bytes)} ${start.because}`;
  return {
    bytes,
    sectors: bytes / medium.logicalSector,
    rule: raises.length > 0 ? 'raised' : 'base',
    because: raises.length > 0 ? `${inBinary(bytes)}: ${because}, raised to ${raises.join(' and ')}` : because,
    ignoresOptimalIo: isIgnored,
  };
}
