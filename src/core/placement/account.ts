/** Where the bytes of a partition go: every structure by its name, what files take, and what is left. */
import type { FatGeometry } from '../filesystems/fat/geometry';
import { shapeOfTree } from '../filesystems/fat/fill';
import { clustersFor } from '../filesystems/laying';
import type { ExfatGeometry } from '../filesystems/exfat/geometry';
import { exfatSystem } from '../filesystems/exfat/fill';
import { swapPages } from '../filesystems/swap';
import { treeSums } from '../filesystems/tree';
import { blobOf } from '../layout/contents';
import { counted, grouped } from '../quantity/units';
import type { PlacedPartition, Placement } from './placement';
import { pageSizeOf } from '../layout/swap';
import { roomOf, type VolumeRoom } from './volumes';

/** What a part is for. */
export type Use = 'structure' | 'padding' | 'folders' | 'files' | 'lost' | 'free' | 'unused';

export interface Part {
  readonly name: string;
  readonly bytes: number;
  readonly use: Use;
}

/** The parts of a partition in the order of their places; their sum is the partition. */
export interface Account {
  /** What is in it, in words. */
  readonly title: string;
  readonly parts: readonly Part[];
  /** Bytes that files can take in all, those that are there included; undefined where nobody knows. */
  readonly usable: number | undefined;
}

/** What files and folders take of the clusters, and what they leave. */
function filled(room: VolumeRoom | undefined, clusterBytes: number, clusters: number, ahead: number): Part[] {
  const forFiles = (clusters - ahead) * clusterBytes;
  if (!room || room.tree.length === 0 || room.used > room.clusters)
    return [{ name: 'For files', bytes: forFiles, use: 'free' }];
  const { files, folders, bytes } = treeSums(room.tree);
  const taken = bytes + room.slack;
  const inFolders = (room.used - ahead) * clusterBytes - taken;
  return [
    { name: counted(folders, 'folder'), bytes: inFolders, use: 'folders' },
    { name: counted(files, 'file'), bytes, use: 'files' },
    { name: 'Lost in last clusters', bytes: room.slack, use: 'lost' },
    { name: 'Free for more files', bytes: forFiles - taken - inFolders, use: 'free' },
  ];
}

/** Clusters of the root directory of FAT32. */
function rootClusters(geometry: FatGeometry, room: VolumeRoom | undefined, hasLabel: boolean): number {
  if (geometry.variant !== 32) return 0;
  const entries = (room ? shapeOfTree(room.tree).entries[0]! : 0) + (hasLabel ? 1 : 0);
  return Math.max(1, clustersFor(entries * 32, geometry.clusterBytes));
}

function fatParts(geometry: FatGeometry, room: VolumeRoom | undefined, hasLabel: boolean): Part[] {
  const { sectorSize, reserved, fatSectors, leastFatSectors, clusterBytes, tail, unused, variant, rootSectors } =
    geometry;
  const root = rootClusters(geometry, room, hasLabel);
  return [
    { name: `Reserved, ${counted(reserved, 'sector')}`, bytes: reserved * sectorSize, use: 'structure' },
    {
      name: `Two FATs of ${counted(leastFatSectors, 'sector')}`,
      bytes: 2 * leastFatSectors * sectorSize,
      use: 'structure',
    },
    { name: 'FATs, padded', bytes: 2 * (fatSectors - leastFatSectors) * sectorSize, use: 'padding' },
    variant === 32
      ? { name: `Root directory, ${counted(root, 'cluster')}`, bytes: root * clusterBytes, use: 'structure' }
      : {
          name: `Root directory, ${grouped(geometry.rootEntries)} entries`,
          bytes: rootSectors * sectorSize,
          use: 'structure',
        },
    ...filled(room, clusterBytes, geometry.clusters, root),
    { name: 'Behind the last cluster', bytes: tail * sectorSize, use: 'unused' },
    { name: 'Behind the volume, unused', bytes: unused * sectorSize, use: 'unused' },
  ];
}

function exfatParts(geometry: ExfatGeometry, room: VolumeRoom | undefined): Part[] {
  const { sectorSize, fatOffset, fatSectors, heapOffset, clusterBytes, clusters, tail } = geometry;
  const system = exfatSystem(room?.tree ?? [], geometry);
  const ahead = system.bitmap + system.upcase + system.root;
  return [
    { name: 'Two boot regions', bytes: fatOffset * sectorSize, use: 'structure' },
    { name: `FAT of ${counted(fatSectors, 'sector')}`, bytes: fatSectors * sectorSize, use: 'structure' },
    { name: 'Up to the unit of the medium', bytes: (heapOffset - fatOffset - fatSectors) * sectorSize, use: 'padding' },
    { name: 'Allocation bitmap', bytes: system.bitmap * clusterBytes, use: 'structure' },
    { name: 'Up-case table', bytes: system.upcase * clusterBytes, use: 'structure' },
    { name: 'Root directory', bytes: system.root * clusterBytes, use: 'structure' },
    ...filled(room, clusterBytes, clusters, ahead),
    { name: 'Behind the last cluster', bytes: tail * sectorSize, use: 'unused' },
  ];
}

function sum(parts: readonly Part[], uses: readonly Use[]): number {
  return parts.reduce((total, part) => (uses.includes(part.use) ? total + part.bytes : total), 0);
}

function volume(title: string, parts: readonly Part[]): Account {
  return {
    title,
    parts: parts.filter((part) => part.bytes > 0),
    usable: sum(parts, ['folders', 'files', 'lost', 'free']),
  };
}

function rest(bytes: number, used: number): Part[] {
  return [{ name: 'Behind it, unused', bytes: Math.max(0, bytes - used), use: 'unused' }];
}

/** Where the bytes of a placed partition go. */
export function accountOf(placed: PlacedPartition, placement: Pick<Placement, 'contents' | 'layout'>): Account {
  const { slot, fat, exfat, span } = placed;
  const { content } = slot;
  const bytes = span.end - span.start;
  const room = roomOf(placed, placement);
  if (fat?.ok) {
    const { variant, clusters } = fat.value;
    return volume(
      `FAT${variant}, ${grouped(clusters)} clusters`,
      fatParts(fat.value, room, (slot.fileSystem?.label ?? '') !== ''),
    );
  }
  if (exfat?.ok) return volume(`exFAT, ${grouped(exfat.value.clusters)} clusters`, exfatParts(exfat.value, room));
  if (content?.kind === 'swap') {
    const pageSize = pageSizeOf(content, placement.layout);
    const pages = swapPages(bytes, pageSize);
    const parts: Part[] = [
      { name: 'Header, one page', bytes: Math.min(bytes, pageSize), use: 'structure' },
      {
        name: `${grouped(Math.max(0, pages - 1))} pages to swap to`,
        bytes: Math.max(0, pages - 1) * pageSize,
        use: 'free',
      },
      ...rest(bytes, Math.max(1, pages) * pageSize),
    ];
    return { ...volume(`swap, ${grouped(pages)} pages of ${pageSize / 1024} KiB`, parts) };
  }
  if (content?.kind === 'image' || content?.kind === 'blob') {
    const image = content.kind === 'image' ? blobOf(content.sha256, placement.contents)?.image : undefined;
    const taken = Math.min(bytes, content.size);
    const used = Math.min(taken, image?.used ?? 0);
    const inside: Part[] =
      image?.used === undefined
        ? [{ name: content.name, bytes: taken, use: 'files' }]
        : [
            { name: `In use in the ${image.name}`, bytes: used, use: 'files' },
            { name: `Its structures, and free in it`, bytes: taken - used, use: 'free' },
          ];
    const parts = [...inside, ...rest(bytes, taken)].filter((part) => part.bytes > 0);
    return { title: image?.name ?? 'a supplied file', parts, usable: undefined };
  }
  const name = content?.kind === 'overwritten' ? 'Overwritten with zeros' : 'Left to its system';
  return { title: 'no file system made here', parts: [{ name, bytes, use: 'unused' }], usable: undefined };
}
