/** A volume without the files that its checker named: what is left of it, by its folders, and what is not. */
import { fail, ok, type Result } from '../../../quantity/result';
import { BrokenChain } from '../../volume';
import { attributesIn, attributesOfBlock, dataPlace } from '../attribute-places';
import type { CheckedExt } from '../check/check';
import { FILE_TYPE, INODE, INODE_FLAG } from '../numbers';
import { ownInodes } from '../read/head';
import { type Inodes } from '../read/inodes';
import { recordLength } from '../read/names';
import { SHORT_INODE } from '../records';
import { type PackedInode, packedInode } from './gather';
import { firstFree } from './place';
import type { Repackable } from './repack';

const FOLDER = FILE_TYPE.folder.mode;
const ENTRY_HEAD = 8;
/** A folder with more folders in it than can be counted says one link. */
const UNCOUNTED = 1;

/** What a volume without some of its files is, and which those are. */
export interface Left {
  readonly volume: Repackable;
  /** Paths that do not go along, ascending; what had no name is told by its inode. */
  readonly paths: readonly string[];
}

/** The numbers that entries in some bytes lead to, without those of the folder itself and of the one above. */
function* childrenIn(bytes: Uint8Array, block: number): Generator<number> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  for (let at = 0; at + ENTRY_HEAD <= bytes.length;) {
    const length = recordLength(view.getUint16(at + 4, true), block);
    if (length < ENTRY_HEAD || at + length > bytes.length) return;
    const [inode, name] = [view.getUint32(at, true), view.getUint8(at + 6)];
    const isDot =
      bytes[at + ENTRY_HEAD] === 0x2e && (name === 1 || (name === 2 && bytes[at + ENTRY_HEAD + 1] === 0x2e));
    if (inode !== 0 && name > 0 && !isDot) yield inode;
    at += length;
  }
}

async function children(inodes: Inodes, folder: PackedInode): Promise<number[]> {
  const { block } = inodes.head;
  if ((folder.flags & INODE_FLAG.inline) !== 0) {
    const { bytes } = folder;
    const map = SHORT_INODE.fields.map.offset;
    const rest = dataPlace(bytes);
    return [
      ...childrenIn(bytes.subarray(map + 4, map + 60), block),
      ...(rest ? childrenIn(bytes.subarray(rest.at, rest.at + rest.length), block) : []),
    ];
  }
  const found: number[] = [];
  for (const { physical, count } of folder.pieces)
    for (let i = 0; i < count; i++)
      found.push(...childrenIn(new Uint8Array(await inodes.read((physical + i) * block, block)), block));
  return found;
}

/** Inodes that hold values of the attributes of another one. */
async function valuesOf(inodes: Inodes, { bytes, attributes }: PackedInode): Promise<number[]> {
  const { block } = inodes.head;
  const own = [...attributesIn(bytes)];
  if (attributes > 0) own.push(...attributesOfBlock(new Uint8Array(await inodes.read(attributes * block, block))));
  return own.map(({ inode }) => inode).filter((inode) => inode !== 0);
}

/** The inode with so many names. */
function withLinks(inode: PackedInode, links: number): PackedInode {
  const at = SHORT_INODE.fields.links.offset;
  const bytes = new Uint8Array(inode.bytes);
  const view = new DataView(bytes.buffer);
  if (view.getUint16(at, true) === links || (inode.kind === FOLDER && view.getUint16(at, true) === UNCOUNTED))
    return inode;
  view.setUint16(at, links, true);
  return { ...inode, bytes };
}

/** The volume without everything that a fault touches, and what lies in such folders; or why nothing can be made of it. */
export async function leavingOut(volume: Repackable, { touched, entries }: CheckedExt): Promise<Result<Left, string>> {
  const { settled, gathered } = volume;
  const { inodes } = settled;
  const { head } = gathered;
  const first = firstFree(head);
  const { journal, orphans, quotas } = ownInodes(head);
  const needed = new Set([INODE.root, journal, ...quotas, orphans].filter((one) => one !== 0));
  const broken = [...needed].find((one) => touched.has(one) && one !== INODE.resize);
  if (broken !== undefined)
    return fail(
      broken === INODE.root
        ? 'its root directory is damaged'
        : `inode ${broken}, which it needs for itself, is damaged`,
    );
  const known = new Map(gathered.inodes.map((one) => [one.number, one]));
  const kept = new Map<number, PackedInode>();
  const names = new Map<number, number>();
  const take = async (number: number): Promise<PackedInode | undefined> => {
    if (touched.has(number) && number >= first) return undefined;
    try {
      const inode = known.get(number) ?? (await packedInode(inodes, await inodes.at(number)));
      if (inode.kind === 0) return undefined;
      kept.set(number, inode);
      for (const value of await valuesOf(inodes, inode)) {
        const held = known.get(value);
        if (held) kept.set(value, held);
      }
      return inode;
    } catch (error) {
      if (error instanceof BrokenChain) return undefined;
      throw error;
    }
  };
  for (const one of gathered.inodes) if (one.number < first || needed.has(one.number)) await take(one.number);
  const root = kept.get(INODE.root);
  if (!root) return fail('its root directory is damaged');
  const folders = [root];
  for (let folder = folders.pop(); folder; folder = folders.pop()) {
    let below = 0;
    for (const number of await children(inodes, folder)) {
      const seen = kept.get(number);
      // A folder has one name.
      if (seen && (seen.kind === FOLDER || number < first)) continue;
      const child = seen ?? (await take(number));
      if (!child) continue;
      names.set(number, (names.get(number) ?? 0) + 1);
      if (child.kind !== FOLDER) continue;
      below += 1;
      folders.push(child);
    }
    names.set(folder.number, 2 + below);
  }
  const left = [...kept.values()]
    .sort((a, b) => a.number - b.number)
    .map((one) => {
      const links = names.get(one.number);
      return links === undefined ? one : withLinks(one, links);
    });
  const paths = new Set(entries.filter(({ inode }) => !kept.has(inode.number)).map(({ path }) => path));
  const named = new Set(entries.map(({ inode }) => inode.number));
  for (const { number } of gathered.inodes) if (!kept.has(number) && !named.has(number)) paths.add(`inode ${number}`);
  return ok({ volume: { ...volume, gathered: { head, inodes: left } }, paths: [...paths].sort() });
}
