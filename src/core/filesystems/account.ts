/** Where the bytes of a partition go: every structure by its name, what files take, and what is left. */
import { counted } from '../quantity/units';
import type { VolumeRoom } from './allocation';
import { treeSums } from './tree';

/** What a part is for. */
export type ByteUse = 'structure' | 'padding' | 'folders' | 'files' | 'lost' | 'free' | 'unused';

export interface Part {
  readonly name: string;
  readonly bytes: number;
  readonly use: ByteUse;
}

/** The parts of a partition in the order of their places; their sum is the partition. */
export interface Account {
  /** What is in it, in words. */
  readonly title: string;
  readonly parts: readonly Part[];
  /** Bytes that files can take in all, those that are there included; undefined where nobody knows. */
  readonly usable: number | undefined;
}

/** What files and folders take of the clusters behind the first `ahead` ones, and what they leave. */
export function filledParts(
  room: VolumeRoom | undefined,
  clusterBytes: number,
  clusters: number,
  ahead: number,
): Part[] {
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

const USABLE: readonly ByteUse[] = ['folders', 'files', 'lost', 'free'];

/** The account of something whose free parts can be used. */
export function accountWith(title: string, parts: readonly Part[]): Account {
  return {
    title,
    parts: parts.filter((part) => part.bytes > 0),
    usable: parts.reduce((total, part) => (USABLE.includes(part.use) ? total + part.bytes : total), 0),
  };
}

/** What `used` bytes leave of a partition. */
export function unusedBehind(bytes: number, used: number): Part {
  return { name: 'Behind it, unused', bytes: Math.max(0, bytes - used), use: 'unused' };
}

/** The account of a partition in which no file system is made here. */
export function accountOfOne(name: string, bytes: number): Account {
  return { title: 'no file system made here', parts: [{ name, bytes, use: 'unused' }], usable: undefined };
}

/** The account of a supplied file of `size` bytes, of which `used` are known to be in use. */
export function accountOfFile(
  { title, name, size, used }: { title: string; name: string; size: number; used: number | undefined },
  bytes: number,
): Account {
  const taken = Math.min(bytes, size);
  const inUse = Math.min(taken, used ?? 0);
  const inside: Part[] =
    used === undefined
      ? [{ name, bytes: taken, use: 'files' }]
      : [
          { name: `In use in the ${title}`, bytes: inUse, use: 'files' },
          { name: `Its structures, and free in it`, bytes: taken - inUse, use: 'free' },
        ];
  return {
    title,
    parts: [...inside, unusedBehind(bytes, taken)].filter((part) => part.bytes > 0),
    usable: undefined,
  };
}
