/** What the checker finds, by name. */
import { grouped } from '../../../quantity/units';

/** Names of all faults, by the structure that they are in. */
export type FaultCode =
  | `superblock/${'magic' | 'checksum' | 'block size' | 'longer than its place' | 'first block' | 'groups' | 'inode size' | 'inodes' | 'state' | 'features' | 'descriptor size' | 'free blocks' | 'free inodes' | 'reserved blocks' | 'revision' | 'orphans' | 'hash' | 'room for descriptors' | 'copy'}`
  | `group/${'checksum' | 'block bitmap' | 'inode bitmap' | 'inode table' | 'free blocks' | 'free inodes' | 'folders' | 'unused inodes' | 'flags' | 'copy'}`
  | `bitmap/${'block checksum' | 'inode checksum' | 'block padding' | 'inode padding' | 'block not free' | 'block free' | 'inode not free' | 'inode free'}`
  | `inode/${'checksum' | 'kind' | 'names' | 'size' | 'sectors' | 'flags' | 'deleted' | 'extra fields' | 'without a name' | 'root'}`
  | `map/${'magic' | 'entries' | 'depth' | 'order' | 'checksum' | 'outside' | 'length' | 'block twice'}`
  | `folder/${'record' | 'name' | 'inode' | 'kind' | 'name twice' | 'dot' | 'dot dot' | 'checksum' | 'tail' | 'second name' | 'hole'}`
  | `hash/${'root' | 'limit' | 'count' | 'order' | 'checksum' | 'block' | 'name elsewhere'}`
  | `link/${'length' | 'target'}`
  | `attributes/${'magic' | 'checksum' | 'entry' | 'hash' | 'references' | 'order' | 'name'}`
  | `journal/${'magic' | 'blocks' | 'block size' | 'not empty' | 'copy' | 'missing'}`
  | `spare descriptors/${'table' | 'copies'}`
  | 'lost+found/missing';

export interface Fault {
  readonly code: FaultCode;
  /** Where: a group, an inode, a block, or a path. */
  readonly where: string;
  /** What is there, and what should be. */
  readonly says: string;
  /** Paths of the files that it touches, as far as they are known; the first of many. */
  files?: readonly string[];
}

/** Files that are named of one fault. */
export const FILES_NAMED = 8;

/** Faults beyond this many are not told: what is so broken is known to be. */
export const FAULT_LIMIT = 1000;

/** Gathers faults. */
export class Faults {
  readonly all: Fault[] = [];

  /** Adds a fault; gives it, unless there are too many already. */
  add(code: FaultCode, where: string, says: string): Fault | undefined {
    if (this.all.length >= FAULT_LIMIT) return undefined;
    const fault: Fault = { code, where, says };
    this.all.push(fault);
    return fault;
  }

  /** Tells where two values differ; true where they agree. */
  same(code: FaultCode, where: string, found: number, meant: number): boolean {
    if (found !== meant) this.add(code, where, `${grouped(found)}, and should be ${grouped(meant)}`);
    return found === meant;
  }
}
