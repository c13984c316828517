/** What a partition can be named by: in a mount table, on a command line, in a boot entry. */
import { kindOf } from '../filesystems/kinds';
import { kernelType, type Mounted } from '../filesystems/mounted';
import type { FoundEntry } from '../layout/document';
import { foundOf } from '../layout/kept';
import type { NamedBy } from '../layout/vocabulary';
import { isEntered, isPartition, type PlacedPartition, type Placement } from '../placement/placement';
import { storedName } from '../tables/gpt';

/** A medium of the machine: a layout, placed. */
export interface MachineMedium {
  /** What tells it from the others of the machine: the name of its layout, or of its file. */
  readonly name: string;
  readonly placement: Placement;
}

/** A partition with all that names it. */
export interface Nameable {
  readonly medium: MachineMedium;
  readonly placed: PlacedPartition;
  /** Number in its table; undefined without a table. */
  readonly number: number | undefined;
  readonly partitionId: string | undefined;
  /** Name in a GPT. */
  readonly partitionName: string | undefined;
  readonly mounted: Mounted | undefined;
}

/** How a kernel mounts what was found in a kept partition. */
function mountedAsFound(entry: FoundEntry | undefined): Mounted {
  if (!entry?.inside) return { type: undefined, known: 'later' };
  const { kind, id, label } = entry.inside;
  return { type: kernelType(kind), known: 'read', ...(id && { id }), ...(label && { label }) };
}

/** All partitions of the media, in order. */
export function nameablesOf(media: readonly MachineMedium[]): Nameable[] {
  return media.flatMap((medium) =>
    medium.placement.placed.filter(isPartition).map((placed): Nameable => {
      const { content } = placed.slot;
      const entry = isEntered(placed) ? placed.entry : undefined;
      const isNamed = medium.placement.layout.table.kind === 'gpt' && entry !== undefined;
      return {
        medium,
        placed,
        number: entry?.number,
        partitionId: entry?.id,
        partitionName: isNamed ? storedName(placed.slot.name) || undefined : undefined,
        mounted: content
          ? kindOf(content).mounted?.(content, placed.made, medium.placement.contents)
          : mountedAsFound(foundOf(medium.placement.layout, placed.slot)),
      };
    }),
  );
}

/** Disks that a kernel names by a letter, and those that it names by a number with `p` before that of the partition. */
const DEVICES = {
  disk: '/dev/sda',
  'solid-state': '/dev/sda',
  stick: '/dev/sda',
  card: '/dev/mmcblk0p',
  'on-board': '/dev/mmcblk0p',
  image: '/dev/loop0p',
} as const;

/** The name that a kernel may give it; another at every start. */
function deviceName({ medium: { placement }, number }: Nameable): string {
  const name = DEVICES[placement.layout.medium.kind];
  return number === undefined ? name.replace(/p$/, '') : `${name}${number}`;
}

/** What stands behind `UUID=` and its like for this partition; undefined where there is none, or none is known yet. */
export function nameBy(one: Nameable, by: NamedBy): string | undefined {
  switch (by) {
    case 'UUID':
      return one.mounted?.id;
    case 'LABEL':
      return one.mounted?.label;
    case 'PARTUUID':
      return one.partitionId;
    case 'PARTLABEL':
      return one.partitionName;
    case 'device name':
      return deviceName(one);
  }
}
