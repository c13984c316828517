/** What is left to do with a medium that Loess made: by its own system, by an installer, by the person. */
import { EXPECTED_NAMES } from '../filesystems/left/expected';
import { isKeptRaw, keepsInside } from '../layout/kept';
import { storedTreeOf, treeOfSlot } from '../layout/contents';
import { type PlacedPartition, type Placement, isPartition, isRaw } from '../placement/placement';
import { hasSectorCode } from '../placement/supplied';
import { bootFiles } from '../naming/boot';
import { namingFiles } from '../naming/naming-files';
import { mountLines } from '../naming/mount-table';
import { nameablesOf, type Nameable } from '../naming/nameable';
import { isEspType } from '../tables/types';
import { inBoth } from '../quantity/units';

/** One thing to do, and why. */
export interface LeftToDo {
  readonly what: string;
  readonly why: string;
}

/** How a partition is found on the machine, in words. */
function foundBy({ placed, partitionId }: Nameable): string {
  return partitionId === undefined ? placed.slot.name : `${placed.slot.name} (PARTUUID ${partitionId})`;
}

function ofPartition(one: Nameable): LeftToDo[] {
  const { slot } = one.placed;
  const { content } = slot;
  const left: LeftToDo[] = [];
  // What is kept is its system's already: nobody shall make anything there.
  if (!keepsInside(slot) && (content === undefined || content.kind === 'left')) {
    const expected = content?.expects === undefined ? undefined : EXPECTED_NAMES[content.expects];
    const what = slot.role === 'swap' ? 'swap space' : (expected ?? 'a file system');
    left.push({
      what: `Make ${what} on ${foundBy(one)}.`,
      why: 'It is left to its own system; the range is as it was on the medium, but for old signatures at its ends.',
    });
  }
  if (slot.attributes?.includes('grow'))
    left.push({
      what: `Have ${slot.name} grow at the first start.`,
      why: 'It is marked to grow: the medium may be larger than the layout says.',
    });
  return left;
}

/** A partition for firmware that is made here and holds nothing. */
function emptyEsp(placement: Placement, placed: PlacedPartition): LeftToDo[] {
  const { slot, entry } = placed;
  const isEsp = slot.role === 'esp' || (entry !== undefined && isEspType(entry.type));
  if (!isEsp || !placement.layout.boots.includes('uefi') || slot.content?.kind !== 'fat') return [];
  if ((storedTreeOf(slot, placement.contents)?.length ?? 0) > 0) return [];
  return [
    {
      what: `Put a loader on ${slot.name}: /EFI/BOOT/BOOTX64.EFI, or what the processor asks for.`,
      why: 'The firmware starts what lies there, and nothing lies there yet.',
    },
  ];
}

function ofStarting(placement: Placement): LeftToDo[] {
  const { layout, placed } = placement;
  const { table } = layout;
  const raws = placed.filter(isRaw).filter(({ slot }) => slot.blob === undefined && !isKeptRaw(slot));
  const hasCode = table.kind === 'none' || hasSectorCode(placement);
  return [
    ...raws.map(({ slot, span }) => ({
      what: `Write what belongs into ${slot.name}, from byte ${span.start} on, ${inBoth(span.end - span.start)} at most.`,
      why: 'The range is reserved and holds zeros.',
    })),
    ...placed.filter(isPartition).flatMap((one) => emptyEsp(placement, one)),
    ...(layout.boots.includes('bios') && !hasCode
      ? [
          {
            what: 'Have the installer put its loader into sector 0 and behind it.',
            why: 'A BIOS starts the code of sector 0, and there is none.',
          },
        ]
      : []),
  ];
}

/** The mount table and boot entries that nobody writes. */
function ofTexts(placement: Placement): LeftToDo[] {
  const medium = { name: placement.layout.name, placement };
  const forms = new Set(
    placement.layout.slots.flatMap((slot) =>
      namingFiles(treeOfSlot(slot, placement.contents) ?? []).map(({ form }) => form === 'mount table'),
    ),
  );
  const isThere = (what: 'mount table' | 'boot entries') => forms.has(what === 'mount table');
  const left: LeftToDo[] = [];
  if (mountLines([medium]).length > 0 && !isThere('mount table'))
    left.push({
      what: 'Put the mount table of this sheet into /etc/fstab of the system.',
      why: 'No slot has one among its files.',
    });
  if (bootFiles(medium).length > 0 && !isThere('boot entries'))
    left.push({
      what: 'Put the boot entries of this sheet where they belong.',
      why: 'No slot has any among its files.',
    });
  return left;
}

/** All that is left, in the order in which it is done. */
export function leftToDo(placement: Placement): LeftToDo[] {
  const { layout, sectors, sectorSize } = placement;
  const { medium } = layout;
  const onto: LeftToDo =
    medium.kind === 'image'
      ? {
          what: `Copy the image onto a medium of at least ${inBoth(sectors * sectorSize)} with sectors of ${medium.goesOnto ?? sectorSize} B.`,
          why: 'The table is made for exactly that many sectors.',
        }
      : {
          what: `Write the image to a medium of at least ${inBoth(sectors * sectorSize)}.`,
          why: layout.slots.some(({ kind }) => kind === 'free')
            ? 'An image covers the whole medium: what is kept free there is overwritten too.'
            : 'The table is made for exactly that many sectors; a larger medium keeps the rest unused.',
        };
  const nameables = nameablesOf([{ name: layout.name, placement }]);
  return [onto, ...ofStarting(placement), ...nameables.flatMap(ofPartition), ...ofTexts(placement)];
}
