'use client';

import Link from 'next/link';
import type { ReactNode } from 'react';
import { visible } from '@/core/bytes/record';
import type { ExfatFound } from '@/core/filesystems/exfat/read';
import type { FatFound } from '@/core/filesystems/fat/read';
import { volumeIdText } from '@/core/filesystems/volume-id';
import { grouped, inBinary, inBoth, sectorCount } from '@/core/quantity/units';
import type { FoundPartition } from '@/core/survey/found';
import { insideText, isBrowsable } from '@/core/survey/structures';
import { typeName } from '@/core/tables/types';
import { folderUrl } from '../api';
import { Button, buttonClass } from '../kit/Button';
import type { FoundLayer } from './layers';

type Fact = readonly [name: string, value: ReactNode];

function fatFacts(fat: FatFound): Fact[] {
  const { shape, root } = fat;
  const cluster = shape.sectorsPerCluster * shape.sectorSize;
  const free = fat.freeCounted ?? fat.freeTold;
  return [
    ['Variant', `FAT${shape.variant}, ${grouped(shape.clusters)} clusters of ${inBinary(cluster)}`],
    ['Label', visible(root.label || fat.labelInHeader) || 'none'],
    ['Volume id', volumeIdText(fat.volumeId)],
    ['Reserved', sectorCount(shape.reserved)],
    ['FATs', `${shape.fats} of ${sectorCount(shape.fatSectors)}`],
    ['Root', `${grouped(root.entries)} ${root.entries === 1 ? 'entry' : 'entries'}`],
    ['Data from', `sector ${grouped(shape.dataStart)} of the volume`],
    [
      'Free',
      free === undefined
        ? 'not counted'
        : `${inBoth(free * cluster)}${fat.freeCounted === undefined ? ', as told' : ''}`,
    ],
  ];
}

function exfatFacts({ shape, label, serial, free, regionSound, copySound }: ExfatFound): Fact[] {
  const soundText = (is: boolean) => (is ? 'checksum right' : 'checksum wrong');
  return [
    ['Inside', `exFAT, ${grouped(shape.clusters)} clusters of ${inBinary(shape.clusterBytes)}`],
    ['Label', visible(label) || 'none'],
    ['Volume id', volumeIdText(serial)],
    ['Boot', `${soundText(regionSound)}; copy: ${soundText(copySound)}`],
    ['Free', free === undefined ? 'not counted' : inBoth(free * shape.clusterBytes)],
  ];
}

function partitionFacts(one: FoundPartition): Fact[] {
  return [
    ...(one.type === '' ? [] : [['Type', typeName(one.type)] as const]),
    ...(one.type.length > 2 ? [['Type id', one.type] as const] : []),
    ...(one.id === '' ? [] : [['Its id', one.id] as const]),
    ...(one.name === '' ? [] : [['Name', visible(one.name)] as const]),
    ...(one.active ? [['Mark', 'active'] as const] : []),
    ...(one.attributes.length > 0 ? [['Attributes', one.attributes.join(', ')] as const] : []),
    ...insideFacts(one),
  ];
}

function insideFacts({ inside }: FoundPartition): Fact[] {
  if (inside.kind === 'fat') return fatFacts(inside.fat);
  if (inside.kind === 'exfat') return exfatFacts(inside.exfat);
  if (inside.kind !== 'known') return [['Inside', insideText(inside)]];
  const { name, label, id, size, used, state, mounted } = inside.content;
  return [
    ['Inside', name],
    ...(label === undefined ? [] : [['Label', visible(label)] as const]),
    ...(id === undefined ? [] : [['Id', visible(id)] as const]),
    ...(size === undefined ? [] : [['Its size', inBoth(size)] as const]),
    ...(used === undefined ? [] : [['In use', inBoth(used)] as const]),
    ...(state === undefined ? [] : [['State', state] as const]),
    ...(mounted === undefined ? [] : [['Mounted', `last ${visible(mounted).replace('T', ' ')}`] as const]),
  ];
}

/** What was found in one layer. */
export function FoundPanel({
  layer,
  of,
  sectorSize,
  onOpen,
}: {
  layer: FoundLayer;
  /** The image, as a survey names it. */
  of: string;
  sectorSize: number;
  onOpen: (sector: number) => void;
}) {
  const { partition } = layer;
  const [start, sectors] = partition ? [partition.start, partition.sectors] : [layer.start, layer.sectors];
  const bytes = layer.sectors * sectorSize;
  return (
    <>
      <h2 className="text-base font-semibold">{layer.title}</h2>
      <p className="text-soft">
        sectors {grouped(start)} – {grouped(start + sectors - 1)}
      </p>
      <p className="mb-2 text-soft">
        {inBoth(bytes)} · {sectorCount(layer.sectors)}
      </p>
      {partition && (
        <dl className="grid grid-cols-[76px_1fr] gap-x-2.5 gap-y-0.5 border-t border-hair pt-2">
          {partitionFacts(partition).map(([name, value]) => (
            <div key={name} className="contents">
              <dt className="text-soft">{name}</dt>
              <dd className="min-w-0 font-mono text-sm break-words">{value}</dd>
            </div>
          ))}
        </dl>
      )}
      {layer.sectors > 0 && (
        <p className="mt-3 flex gap-1.5">
          {partition && isBrowsable(partition) && (
            <Link className={buttonClass('primary')} href={folderUrl({ of, partition: partition.key, path: '' })}>
              Browse its files
            </Link>
          )}
          <Button onClick={() => onOpen(layer.start)}>Open its first sector in the ledger</Button>
        </p>
      )}
    </>
  );
}
