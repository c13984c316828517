/**
 * Sound volumes with some bytes of their structures changed, checksums made anew: some are still sound, others are not, and
 * whoever accepts one must get it right.
 */
import { LONG_GROUP, LONG_INODE, SHORT_GROUP, SUPERBLOCK } from '@/core/filesystems/ext/records';
import type { Draw } from './fuzz';
import { type Planted, planted, type Which, WISHES } from './planted-ext';

const WIDTHS = { u8: 8, u16: 16, u32: 32 } as const;
type Fields = Readonly<Record<string, { readonly type: unknown }>>;

/** A field that holds a number, and a value for it. */
function fieldAmong<F extends Fields>(fields: F, draw: Draw): [name: keyof F & string, value: number] {
  const names = Object.keys(fields).filter((one) => (fields[one]!.type as string) in WIDTHS);
  const name = names[draw(names.length)]!;
  const odd = [0, 1, 2, 0xff, 0xffff, 0x8000, 0x8000_0000, 0xffff_ffff, draw(64), draw(0x1_0000), draw(0xffff_ffff)];
  return [name, odd[draw(odd.length)]! % 2 ** WIDTHS[fields[name]!.type as keyof typeof WIDTHS]];
}

/** One change, and what it was. */
type Mutation = (one: Planted, draw: Draw) => string | undefined;

const drawn = <T>(all: readonly T[], draw: Draw): T => all[draw(all.length)]!;

const byteAt = (one: Planted, at: number, value: number, where: string): string => {
  one.bytes[at] = value;
  return `byte ${at} (${where}) = ${value}`;
};

const inodeField: Mutation = (one, draw) => {
  const { node } = drawn(one.made.plan.placed, draw);
  const number = draw(6) === 0 ? 1 + draw(16) : node.inode;
  const [field, value] = fieldAmong(LONG_INODE.fields, draw);
  const room = LONG_INODE.fields[field].offset + 4;
  if (room > one.made.geometry.inodeSize) return undefined;
  one.inode(number, field, value);
  return `inode ${number} (${node.path}) ${field} = ${value}`;
};

const superblockField: Mutation = (one, draw) => {
  const [field, value] = fieldAmong(SUPERBLOCK.fields, draw);
  one.superblock(field, value);
  return `superblock ${field} = ${value}`;
};

const groupField: Mutation = (one, draw) => {
  const isLong = one.made.geometry.descriptorBytes === 64;
  const [field, value] = fieldAmong(isLong ? LONG_GROUP.fields : SHORT_GROUP.fields, draw);
  const group = draw(4);
  one.group(group, field as keyof typeof SHORT_GROUP.fields, value);
  return `group ${group} ${field} = ${value}`;
};

const inodeByte: Mutation = (one, draw) => {
  const { node } = drawn(one.made.plan.placed, draw);
  const from = one.at(node.inode);
  const at = draw(2) ? 0x28 + draw(60) : draw(one.made.geometry.inodeSize);
  const said = byteAt(one, from + at, drawn([0, 1, 255, draw(256)], draw), `${at} of ${node.path}`);
  one.sealInode(node.inode);
  return said;
};

/** Checksums of blocks are not made anew: in volumes that have them the change is told. */
const folderByte: Mutation = (one, draw) => {
  const { node, pieces } = drawn(one.made.plan.placed, draw);
  if (!node.directory || !pieces[0]) return undefined;
  const { block } = one.made.geometry;
  return byteAt(one, pieces[0].physical * block + draw(block), drawn([0, 1, 2, 255, draw(256)], draw), node.path);
};

const mapByte: Mutation = (one, draw) => {
  const { node, map } = drawn(one.made.plan.placed, draw);
  if (!map[0]) return undefined;
  return byteAt(one, map[0] * one.made.geometry.block + draw(200), drawn([0, 1, 255, draw(256)], draw), node.path);
};

const bitmapByte: Mutation = (one, draw) => {
  const kind = drawn(['blockBitmap', 'inodeBitmap'] as const, draw);
  return byteAt(one, one.bitmap(kind, draw(4)) + draw(128), draw(256), kind);
};

const MUTATIONS: readonly Mutation[] = [
  ...[inodeField, inodeField, inodeField, superblockField, superblockField],
  ...[groupField, inodeByte, inodeByte, folderByte, folderByte, mapByte, bitmapByte],
];

/** A volume with one to three changes, and what they were. */
export function mutantOf(draw: Draw): {
  readonly one: Planted;
  readonly which: Which;
  readonly changes: readonly string[];
} {
  const which = drawn(Object.keys(WISHES) as Which[], draw);
  const one = planted(which);
  const changes: string[] = [];
  for (let left = 1 + draw(3); left > 0;) {
    const change = drawn(MUTATIONS, draw)(one, draw);
    if (change === undefined) continue;
    changes.push(change);
    left -= 1;
  }
  return { one, which, changes };
}
