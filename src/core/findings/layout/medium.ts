/** Findings about the medium as a whole. */
import { exactText, GB, grouped, inBoth, MIB, sectorCount } from '../../quantity/units';
import { KIND_NAMES, nominalCapacity, SOLD_SIZES, usualFloor } from '../../medium/medium';
import { alignDown, alignUp } from '../../quantity/integers';
import { CLASSIC } from '../../filesystems/fat/classic';
import { type Occurrence, type Remedy, type Rule, rule } from './finding';
import type { Placement } from '../../placement/placement';

function resize({ layout, sectorSize }: Placement, bytes: number): Remedy[] {
  if (!('exact' in layout.medium.capacity) || bytes === 0) return [];
  const exact = exactText(bytes, sectorSize);
  return [
    {
      label: `Make it ${exact}`,
      edit: { do: 'change layout', patch: { medium: { ...layout.medium, capacity: { exact } } } },
    },
  ];
}

const notWholeSectors = rule('medium/not-whole-sectors', 'stop', (placement) => {
  const { medium, sectorSize } = placement;
  const over = medium.capacity % sectorSize;
  if (over === 0) return [];
  return [
    {
      place: { kind: 'medium' },
      sentence: `The medium of ${grouped(medium.capacity)} bytes is ${grouped(over)} bytes more than a whole number of ${grouped(sectorSize)}-byte sectors.`,
      why: 'No device has a part of a sector; the last bytes could not be written.',
      remedies: resize(placement, alignDown(medium.capacity, sectorSize)),
    },
  ];
});

const imageNotWholeMebibytes = rule('medium/image-not-whole-mebibytes', 'note', (placement) => {
  const { medium, sectorSize } = placement;
  const over = medium.capacity % MIB;
  // Floppies have the length that they always had.
  if (medium.kind !== 'image' || over === 0 || medium.capacity % sectorSize !== 0 || CLASSIC.has(medium.capacity))
    return [];
  return [
    {
      place: { kind: 'medium' },
      sentence: `The image is ${grouped(over)} bytes longer than a whole number of MiB.`,
      why: 'Some copiers and hypervisors pad or cut images to whole MiB.',
      remedies: resize(placement, alignUp(medium.capacity, MIB)),
    },
  ];
});

const tooSmallForAnything = rule('medium/smaller-than-a-grain', 'stop', ({ medium, sectors, grain }) => {
  if (sectors > grain.sectors) return [];
  const finding: Occurrence = {
    place: { kind: 'medium' },
    sentence: `The medium has ${sectorCount(sectors)} (${inBoth(medium.capacity)}); the first partition could start at sector ${grouped(grain.sectors)} at the earliest.`,
    why: 'Nothing can be placed on it.',
    remedies: [],
  };
  return [finding];
});

const optimalIoIgnored = rule('medium/optimal-io-ignored', 'note', ({ layout, medium, grain }) => {
  if (!grain.ignoresOptimalIo) return [];
  const finding: Occurrence = {
    place: { kind: 'medium' },
    sentence: `The optimal I/O size of ${grouped(medium.optimalIo)} bytes is not heeded: it is off the physical sector, or would make the grain larger than 64 MiB.`,
    why: 'Some USB bridges report a figure that is no property of the medium.',
    remedies: [
      {
        label: 'Forget the reported size',
        edit: { do: 'change layout', patch: { medium: { ...layout.medium, optimalIo: undefined } } },
      },
    ],
  };
  return [finding];
});

const largerThanTheFloor = rule('medium/larger-than-others-of-its-size', 'risk', ({ layout, medium }) => {
  if (!('exact' in layout.medium.capacity) || (medium.kind !== 'card' && medium.kind !== 'stick')) return [];
  const nominal = SOLD_SIZES[medium.kind].find((size) => size * GB >= medium.capacity);
  if (nominal === undefined) return [];
  const floor = nominalCapacity(medium.kind, nominal * GB, usualFloor(medium.kind), medium.logicalSector);
  if (medium.capacity <= floor) return [];
  const kind = KIND_NAMES[medium.kind];
  return [
    {
      place: { kind: 'medium' },
      sentence: `The layout is for a ${kind} of ${inBoth(medium.capacity)}; others sold as ${nominal} GB may have ${inBoth(medium.capacity - floor)} less.`,
      why: 'Media of one nominal size differ by several per cent; an image made for this one does not fit them all.',
      remedies: [
        {
          label: `Design for any ${nominal} GB ${kind}`,
          edit: {
            do: 'change layout',
            patch: { medium: { ...layout.medium, capacity: { nominal: `${nominal} GB` } } },
          },
        },
      ],
    },
  ];
});

const otherTarget = rule('medium/image-for-other-sectors', 'stop', ({ layout, medium, sectorSize }) => {
  const { goesOnto, ...rest } = layout.medium;
  if (medium.kind !== 'image' || goesOnto === undefined || goesOnto === sectorSize) return [];
  const physicalSector = goesOnto === 4096 ? 4096 : rest.physicalSector;
  return [
    {
      place: { kind: 'medium' },
      sentence: `The image is laid out in sectors of ${grouped(sectorSize)} bytes and goes onto a device with sectors of ${grouped(goesOnto)}.`,
      why: 'Every number in its table and file systems counts sectors: on that device all of them are wrong.',
      remedies: [
        {
          label: `Lay it out in sectors of ${grouped(goesOnto)} bytes`,
          edit: {
            do: 'change layout',
            patch: { medium: { ...layout.medium, logicalSector: goesOnto, physicalSector } },
          },
        },
        {
          label: `It goes onto a device with sectors of ${grouped(sectorSize)}`,
          edit: { do: 'change layout', patch: { medium: { ...layout.medium, goesOnto: sectorSize } } },
        },
      ],
    },
  ];
});

export const MEDIUM_RULES: readonly Rule[] = [
  notWholeSectors,
  otherTarget,
  imageNotWholeMebibytes,
  tooSmallForAnything,
  optimalIoIgnored,
  largerThanTheFloor,
];
