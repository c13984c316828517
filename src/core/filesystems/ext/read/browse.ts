/**
 * Browsing an ext2, ext3 or ext4 volume, whoever made it: its folders and files as they lie on the medium ("Directory
 * Entries", "Hash Tree Directories"). What a journal still has to say is replayed first, in memory.
 */
import type { BlockSource } from '../../../bytes/blocks';
import { textOfBytes } from '../../../bytes/utf8';
import { grouped, MIB } from '../../../quantity/units';
import {
  BrokenChain,
  type EntryFacts,
  type Listing,
  type Piece,
  readPieces,
  type Volume,
  type VolumeEntry,
  type VolumeFact,
} from '../../volume';
import type { RoomMap } from '../../room-map';
import { extMap } from '../map';
import { FILE_TYPE, INODE, INODE_FLAG, TAIL_TYPE } from '../numbers';
import { type Replay, replayWords, settled, type Settled } from '../replay/replay';
import { attributesOf } from './attributes';
import { extFacts } from './facts';
import { extName } from './head';
import { recordLength } from './names';
import { type ExtInode, type Inodes, kindWord, nanosecondsOf } from './inodes';

/** Most bytes of a directory, and most of its entries, that are read. */
const FOLDER_READ = 16 * MIB;
const MOST_ENTRIES = 200_000;
const ENTRY_HEAD = 8;
/** Of a directory that lies in its inode: its parent, and what lies in the map behind it. */
const [PARENT_BYTES, MAP_BYTES] = [4, 60];
/** Bytes of a target that lies in the inode. */
const SHORT_TARGET = 60;
/** Longest target that is read. */
const LONGEST_TARGET = 4096;

/** A name of a directory. */
interface Name {
  readonly name: Uint8Array;
  readonly inode: number;
}

/** Names of a block of a directory; index blocks of a hashed one look like blocks without any. */
function* namesOf(bytes: Uint8Array, block: number, hasTypes: boolean): Generator<Name, string | undefined> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  let at = 0;
  while (at + ENTRY_HEAD <= bytes.length) {
    const inode = view.getUint32(at, true);
    const length = recordLength(view.getUint16(at + 4, true), block);
    const nameLength = hasTypes ? view.getUint8(at + 6) : view.getUint16(at + 6, true) & 0xff;
    if (length < ENTRY_HEAD || length % 4 !== 0 || at + length > bytes.length || ENTRY_HEAD + nameLength > length)
      return 'an entry of this folder does not hold together';
    const isTail = hasTypes && view.getUint8(at + 7) === TAIL_TYPE;
    if (inode !== 0 && nameLength > 0 && !isTail)
      yield { name: bytes.subarray(at + ENTRY_HEAD, at + ENTRY_HEAD + nameLength), inode };
    at += length;
  }
  return undefined;
}

const isDot = (name: Uint8Array) => name[0] === 0x2e && (name.length === 1 || (name.length === 2 && name[1] === 0x2e));

/** `YYYY-MM-DDTHH:MM:SS` of seconds since 1970. */
function timeOf(seconds: number): string | undefined {
  const date = new Date(seconds * 1000);
  return Number.isFinite(date.getTime()) && seconds !== 0 ? date.toISOString().slice(0, 19) : undefined;
}

/** Flags that people set and lists of files do not have, in words. */
const FLAGS_TOLD: readonly (readonly [flag: number, words: string])[] = [
  [0x10, 'is marked as never to be changed'],
  [0x20, 'is marked as only to be added to'],
  [0x40, 'is marked as not to be backed up'],
];

/** The numbers of a device: in old form in the first field of its map, in the new one in the second. */
export function deviceOf(map: DataView): { major: number; minor: number } {
  const old = map.getUint32(0, true);
  if (old !== 0) return { major: (old >>> 8) & 0xff, minor: old & 0xff };
  const packed = map.getUint32(4, true);
  return { major: (packed >>> 8) & 0xfff, minor: (packed & 0xff) | ((packed >>> 12) & 0xfff00) };
}

export class ExtVolume implements Volume {
  readonly kind: string;
  readonly remark: string | undefined;
  readonly numbers = 'inode';
  readonly canBeChecked = true;

  readonly says: readonly VolumeFact[];
  readonly view: BlockSource;
  readonly replay: Replay;
  private readonly inodes: Inodes;

  constructor({ view, inodes, replay, before }: Settled) {
    this.view = view;
    this.inodes = inodes;
    this.replay = replay;
    this.kind = extName(inodes.head.superblock);
    this.says = extFacts(inodes.head, before.superblock);
    const words = replayWords(replay);
    if (words.length > 0) this.remark = words.join(' ');
  }

  map(cells: number): Promise<RoomMap> {
    return extMap(this.inodes, cells);
  }

  /** The blocks of a directory, each with what it holds. */
  private async *blocksOf(inode: ExtInode): AsyncGenerator<Uint8Array> {
    const { block } = this.inodes.head;
    const isInline = (inode.flags & INODE_FLAG.inline) !== 0;
    const { bytes, trouble } = await readPieces(this.view, this.limited(inode));
    if (isInline) {
      yield bytes.subarray(PARENT_BYTES, Math.min(MAP_BYTES, bytes.length));
      if (bytes.length > MAP_BYTES) yield bytes.subarray(MAP_BYTES);
    } else for (let at = 0; at + block <= bytes.length; at += block) yield bytes.subarray(at, at + block);
    if (trouble !== undefined) throw new BrokenChain(trouble);
  }

  private async *limited(inode: ExtInode): AsyncGenerator<Piece> {
    let left = FOLDER_READ;
    for await (const piece of this.inodes.pieces(inode)) {
      const length = Math.min(left, piece.length);
      if (length > 0) yield { ...piece, length };
      left -= length;
      if (left <= 0) throw new BrokenChain(`it is longer than ${grouped(FOLDER_READ)} bytes`);
    }
  }

  private async entryOf({ name, inode: number }: Name): Promise<VolumeEntry> {
    const inode = await this.inodes.at(number);
    const folder = inode.kind === FILE_TYPE.folder.mode;
    const special = kindWord(inode);
    const target = special === 'link' ? await this.targetOf(inode) : undefined;
    return {
      name: textOfBytes(name),
      folder,
      size: folder || special !== undefined ? 0 : inode.size,
      time: timeOf(inode.modified),
      attributes: [],
      cluster: number,
      inOnePiece: false,
      length: inode.size,
      owned: { mode: inode.mode, user: inode.user, group: inode.group, names: inode.links },
      ...(special !== undefined && { special }),
      ...(target !== undefined && { target }),
    };
  }

  /** Where a link leads: short ones lie in the inode. */
  private async targetOf(inode: ExtInode): Promise<string | undefined> {
    if (inode.size >= LONGEST_TARGET || (inode.flags & INODE_FLAG.encrypted) !== 0) return undefined;
    if (inode.size < SHORT_TARGET && (inode.flags & (INODE_FLAG.inline | INODE_FLAG.extents)) === 0)
      return textOfBytes(new Uint8Array(inode.map.buffer, inode.map.byteOffset, inode.size));
    const { bytes, trouble } = await readPieces(this.view, this.inodes.pieces(inode));
    return trouble === undefined ? textOfBytes(bytes) : undefined;
  }

  async list(folder?: VolumeEntry): Promise<Listing> {
    const names: Name[] = [];
    let trouble: string | undefined;
    const trying = async (work: () => Promise<unknown>) => {
      try {
        await work();
      } catch (error) {
        if (!(error instanceof BrokenChain)) throw error;
        trouble ??= error.message;
      }
    };
    await trying(async () => {
      const inode = await this.inodes.at(folder?.cluster ?? INODE.root);
      if (inode.kind !== FILE_TYPE.folder.mode) throw new BrokenChain('it is no folder');
      if ((inode.flags & INODE_FLAG.encrypted) !== 0) throw new BrokenChain('its names are encrypted');
      const { block, hasTypes } = this.inodes.head;
      for await (const bytes of this.blocksOf(inode)) {
        const found = namesOf(bytes, block, hasTypes);
        let next = found.next();
        for (; next.done !== true; next = found.next()) {
          if (isDot(next.value.name)) continue;
          if (names.length >= MOST_ENTRIES) throw new BrokenChain(`it has more than ${grouped(MOST_ENTRIES)} names`);
          names.push(next.value);
        }
        if (next.value !== undefined) trouble ??= next.value;
      }
    });
    const entries = new Array<VolumeEntry | undefined>(names.length);
    // In the order of the inodes their tables are read once, whatever the order of the names is.
    const order = names.map((_, i) => i).sort((a, b) => names[a]!.inode - names[b]!.inode);
    for (const i of order) await trying(async () => (entries[i] = await this.entryOf(names[i]!)));
    return { entries: entries.filter((one) => one !== undefined), trouble };
  }

  async factsOf({ cluster }: VolumeEntry): Promise<EntryFacts> {
    const inode = await this.inodes.at(cluster);
    const { kind, mode, user, group, modified, flags, map } = inode;
    const isDevice = kind === FILE_TYPE.block.mode || kind === FILE_TYPE.character.mode;
    return {
      ...{ mode, user, group, seconds: modified, nanoseconds: nanosecondsOf(inode) },
      extended: await attributesOf(this.inodes, inode),
      ...(isDevice && {
        device: {
          device: kind === FILE_TYPE.block.mode ? ('block' as const) : ('character' as const),
          ...deviceOf(map),
        },
      }),
      beyond: FLAGS_TOLD.flatMap(([flag, words]) => ((flags & flag) === 0 ? [] : [words])),
    };
  }

  async *pieces(file: VolumeEntry): AsyncGenerator<Piece> {
    const inode = await this.inodes.at(file.cluster);
    if ((inode.flags & INODE_FLAG.encrypted) !== 0) throw new BrokenChain('it is encrypted');
    if (kindWord(inode) !== undefined) throw new BrokenChain(`it is a ${kindWord(inode)}`);
    yield* this.inodes.pieces(inode);
  }
}

/**
 * The ext volume that begins `base` bytes into the source; undefined where there is none that can be read. What was found
 * to be worked off of it before need not be found again.
 */
export async function openExt(source: BlockSource, base: number, known?: Replay): Promise<ExtVolume | undefined> {
  const found = await settled(source, base, known);
  return found && 'view' in found ? new ExtVolume(found) : undefined;
}
