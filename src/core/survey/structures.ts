/** Where the structures lie that a survey knows: what a sector is, so that it can be decoded. */
import { visible } from '../bytes/record';
import type { ExtPlaces } from '../filesystems/ext/found';
import { SUPERBLOCK_AT } from '../filesystems/ext/numbers';
import { SUPERBLOCK } from '../filesystems/ext/records';
import type { FatShape } from '../filesystems/fat/header';
import { canBeListed, describeVolume, type Inside, isVolume } from '../filesystems/readers';
import type { FoundPartition, Survey } from './found';

/** How the sectors of a structure are decoded. */
export type Form =
  | { readonly kind: 'boot record' }
  | { readonly kind: 'gpt header' }
  | { readonly kind: 'gpt entries'; readonly entrySize: number; readonly count: number }
  | { readonly kind: 'fat boot sector'; readonly isLarge: boolean }
  | { readonly kind: 'fsinfo' }
  | { readonly kind: 'fat'; readonly width: 12 | 16 | 32; readonly clusters: number }
  | { readonly kind: 'directory' }
  /** `at`: byte of the structure at which it begins. */
  | { readonly kind: 'ext superblock'; readonly at: number }
  | { readonly kind: 'ext groups'; readonly at: number; readonly bytes: number; readonly groups: number }
  | { readonly kind: 'unknown' };

/** A stretch of sectors of the medium with one form. */
export interface Structure {
  readonly what: string;
  readonly start: number;
  readonly sectors: number;
  readonly form: Form;
}

function tableStructures(survey: Survey): Structure[] {
  const { sectorSize, partitions, gpt } = survey;
  const records: Structure[] = [];
  if (survey.table !== 'none')
    records.push({
      what: survey.table === 'gpt' ? 'Protective boot record' : 'Master boot record',
      start: 0,
      sectors: 1,
      form: { kind: 'boot record' },
    });
  for (const { recordAt, number } of partitions)
    if (recordAt > 0)
      records.push({
        what: `Record of logical partition ${number}`,
        start: recordAt,
        sectors: 1,
        form: { kind: 'boot record' },
      });
  for (const [copy, name] of [
    [gpt.first, ''],
    [gpt.copy, ', copy'],
  ] as const) {
    if (!copy) continue;
    const length = Math.min(Math.ceil((copy.entries * copy.entrySize) / sectorSize), 2048);
    records.push({ what: `GPT header${name}`, start: copy.sector, sectors: 1, form: { kind: 'gpt header' } });
    records.push({
      what: `GPT entries${name}`,
      start: copy.array,
      sectors: length,
      form: { kind: 'gpt entries', entrySize: copy.entrySize, count: copy.entries },
    });
  }
  return records;
}

/** Structures of a FAT volume, in sectors of the volume. */
function fatStructures(shape: FatShape): Structure[] {
  const boot: Form = { kind: 'fat boot sector', isLarge: shape.width === 32 };
  const fat: Form = { kind: 'fat', width: shape.width, clusters: shape.clusters };
  const structures: Structure[] = [{ what: 'boot sector', start: 0, sectors: 1, form: boot }];
  const reserved = (sector: number, what: string, form: Form) => {
    if (sector > 0 && sector < shape.reserved) structures.push({ what, start: sector, sectors: 1, form });
  };
  reserved(shape.infoSector, 'FSInfo', { kind: 'fsinfo' });
  reserved(shape.backupSector, 'boot sector copy', boot);
  if (shape.backupSector > 0) reserved(shape.backupSector + shape.infoSector, 'FSInfo copy', { kind: 'fsinfo' });
  for (let i = 0; i < shape.fats; i++)
    structures.push({
      what: `FAT ${i + 1}`,
      start: shape.reserved + i * shape.fatSectors,
      sectors: shape.fatSectors,
      form: fat,
    });
  return structures;
}

/** Structures of an ext volume, in sectors of the volume. */
function extStructures({ descriptors, descriptorBytes, groups, copies }: ExtPlaces, sectorSize: number): Structure[] {
  const stretch = (from: number, length: number) => {
    const start = Math.floor(from / sectorSize);
    return { start, sectors: Math.ceil((from + length) / sectorSize) - start, at: from - start * sectorSize };
  };
  const superblock = (from: number, what: string): Structure => {
    const { at, ...place } = stretch(from, SUPERBLOCK.length);
    return { what, ...place, form: { kind: 'ext superblock', at } };
  };
  const { at, ...table } = stretch(descriptors, groups * descriptorBytes);
  return [
    superblock(SUPERBLOCK_AT, 'superblock'),
    { what: 'group descriptors', ...table, form: { kind: 'ext groups', at, bytes: descriptorBytes, groups } },
    ...copies.map((copy) => superblock(copy.at, `superblock copy in group ${copy.group}`)),
  ];
}

function volumeStructures({ start, inside }: FoundPartition, sectorSize: number): Structure[] {
  if (inside.kind === 'known' && inside.content.places)
    return extStructures(inside.content.places, sectorSize).map((one) => ({ ...one, start: one.start + start }));
  if (inside.kind !== 'fat' || inside.fat.shape.sectorSize !== sectorSize) return [];
  const { shape, root } = inside.fat;
  const directories = root.places.map(({ at, length }): Structure => ({
    what: 'root directory',
    start: at / sectorSize,
    sectors: length / sectorSize,
    form: { kind: 'directory' },
  }));
  const volume: Structure[] = [
    ...fatStructures(shape),
    ...directories,
    { what: 'reserved sectors', start: 0, sectors: shape.reserved, form: { kind: 'unknown' } },
    {
      what: 'clusters',
      start: shape.dataStart,
      sectors: shape.totalSectors - shape.dataStart,
      form: { kind: 'unknown' },
    },
  ];
  return volume.map((one) => ({ ...one, start: one.start + start }));
}

/** Every structure of a survey; what comes first counts where two overlap. */
export function structuresOf(survey: Survey): Structure[] {
  const inside = survey.partitions.flatMap((one) =>
    volumeStructures(one, survey.sectorSize).map((part) => ({ ...part, what: `${named(one)}: ${part.what}` })),
  );
  const places = survey.partitions
    .filter((one) => one.kind !== 'container')
    .map((one): Structure => ({ what: named(one), start: one.start, sectors: one.sectors, form: { kind: 'unknown' } }));
  const gaps = survey.gaps.map((gap): Structure => ({ what: 'Between partitions', ...gap, form: { kind: 'unknown' } }));
  return [...tableStructures(survey), ...inside, ...places, ...gaps];
}

/** A partition as people call it; characters that could disturb a screen are escaped. */
export function named({ kind, number, name }: FoundPartition): string {
  if (kind === 'whole medium') return 'Whole medium';
  if (kind === 'container') return `Container ${number}`;
  return name === '' ? `Partition ${number}` : `Partition ${number}, ${visible(name)}`;
}

/** True where the files inside can be listed and read. */
export function isBrowsable({ inside }: Pick<FoundPartition, 'inside'>): boolean {
  return canBeListed(inside);
}

/** What is inside a partition, in words. */
export function insideText(inside: Inside): string {
  if (isVolume(inside)) {
    const { name, label } = describeVolume(inside);
    return `${name}, ${visible(label) || 'no label'}`;
  }
  switch (inside.kind) {
    case 'known':
      return [inside.content.name, visible(inside.content.label ?? '')].filter(Boolean).join(', ');
    case 'zeros':
      return 'begins with zeros';
    case 'unknown':
      return 'nothing that is known';
    case 'out of reach':
      return 'beyond the end';
  }
}

/** The structure that a sector belongs to; undefined where nothing is known. */
export function structureAt(structures: readonly Structure[], sector: number): Structure | undefined {
  return structures.find((one) => sector >= one.start && sector < one.start + one.sectors);
}
