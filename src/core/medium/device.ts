/** A block device of a machine, as its system describes it, and how two that look alike are told apart. */
import { grouped, inBoth } from '../quantity/units';
import type { Medium, MediumKind } from './medium';

/** Who uses a device or a part of it. */
export interface DeviceUse {
  readonly kind: 'mounted' | 'swap' | 'held';
  /** The device or partition, as the system calls it now. */
  readonly node: string;
  /** Mount point, or what holds it: a volume manager, RAID, encryption, another device. */
  readonly by: string;
}

/** One medium of the bench. */
export interface Device {
  /** Stable within one reading; never stored. */
  readonly key: string;
  /** Name that the system gives now; it changes between boots. Empty for simulated media. */
  readonly node: string;
  readonly simulated: boolean;
  readonly kind: MediumKind;
  readonly bus: string;
  /** Bytes. */
  readonly size: number;
  readonly logicalSector: number;
  readonly physicalSector: number;
  readonly optimalIo: number;
  readonly writeUnit: number;
  readonly model: string;
  readonly serial: string;
  readonly removable: boolean;
  readonly readOnly: boolean;
  readonly uses: readonly DeviceUse[];
  /** What could not be read, and why: `serial: permission denied`. */
  readonly unread: readonly string[];
}

/** Sectors that a layout can be made for. */
function isSector(bytes: number): bytes is 512 | 4096 {
  return bytes === 512 || bytes === 4096;
}

/** The medium of a device, or why none of its layouts could be made here. */
export function mediumOfDevice(device: Device): Medium | string {
  const { kind, size, logicalSector, physicalSector, writeUnit, optimalIo } = device;
  if (!isSector(logicalSector))
    return `It has sectors of ${grouped(logicalSector)} bytes; layouts are made for 512 and 4,096.`;
  if (size <= 0) return 'Its size could not be read.';
  const physical = isSector(physicalSector) && physicalSector >= logicalSector ? physicalSector : 4096;
  return { kind, capacity: size, logicalSector, physicalSector: physical, writeUnit, optimalIo };
}

/** What tells two devices apart, in the order in which people look. */
const DISTINCT: readonly { readonly what: string; readonly text: (one: Device) => string }[] = [
  { what: 'serial', text: (one) => one.serial },
  { what: 'bus', text: (one) => one.bus },
  { what: 'exact size', text: (one) => `${grouped(one.size)} bytes` },
  { what: 'sectors', text: (one) => `${one.logicalSector}/${one.physicalSector} bytes` },
  {
    what: 'use',
    text: (one) => (one.uses.length === 0 ? 'not in use' : one.uses.map((use) => `${use.kind} ${use.by}`).join(', ')),
  },
  { what: 'removable', text: (one) => (one.removable ? 'removable' : 'fixed') },
  { what: 'sort', text: (one) => (one.simulated ? 'simulated' : 'real') },
  { what: 'name now', text: (one) => one.node },
];

/** What looks the same at first sight: the same size as people read it, and the same model. */
function looks(one: Device): string {
  return `${inBoth(one.size)} ${one.model}`;
}

/** For each device that looks like another: what tells it apart, as `serial MCT-0007`. Keys of devices. */
export function lookalikes(devices: readonly Device[]): ReadonlyMap<string, readonly string[]> {
  const groups = new Map<string, Device[]>();
  for (const one of devices) groups.set(looks(one), [...(groups.get(looks(one)) ?? []), one]);
  const differences = new Map<string, string[]>();
  for (const group of groups.values()) {
    if (group.length < 2) continue;
    for (const one of group) {
      const differing = DISTINCT.filter(({ text }) => group.some((other) => text(other) !== text(one)));
      differences.set(
        one.key,
        differing.slice(0, 3).map(({ what, text }) => `${what} ${text(one) || 'not known'}`),
      );
    }
  }
  return differences;
}
