/**
 * Files that Loess writes into slots on request: the mount table and boot entries, made of the layout anew each
 * time it is placed. They name the ids that are built, in every copy of a series too, and cannot disagree with them.
 */
import { sha256 } from '@noble/hashes/sha2';
import { crc32 } from '../bytes/crc32';
import { type Contents, NO_CONTENTS } from '../filesystems/supplied';
import type { TreeFile } from '../filesystems/tree';
import { fillingOf } from '../layout/contents';
import type { Layout, PartitionSlot } from '../layout/document';
import type { Writable } from '../layout/vocabulary';
import { isPartition, type Placement } from '../placement/placement';
import { place } from '../placement/place';
import { bootFiles } from './boot';
import { mountTableText } from './mount-table';
import type { MachineMedium } from './nameable';

/** Where the mount table of a system lies. */
const MOUNT_TABLE = '/etc/fstab';

/** Path of the mount table in a slot; undefined where it lies in another one. */
export function mountTablePath({ mount, role }: PartitionSlot): string | undefined {
  const point = mount ?? (role === 'system' ? '/' : undefined);
  if (point === undefined) return undefined;
  const above = point.endsWith('/') ? point : `${point}/`;
  return MOUNT_TABLE.startsWith(above) ? MOUNT_TABLE.slice(above.length) : undefined;
}

interface WrittenText {
  readonly path: string;
  readonly text: string;
}

/** What is written into a slot where it is asked for; nothing where there is nothing to say, or it belongs elsewhere. */
export function textsFor(slot: PartitionSlot, what: Writable, placement: Placement): WrittenText[] {
  const medium: MachineMedium = { name: placement.layout.name, placement };
  if (what === 'boot entries')
    return bootFiles(medium)
      .filter(({ on }) => on?.placed.slot.id === slot.id)
      .map(({ path, text }) => ({ path: path.slice(1), text }));
  const path = mountTablePath(slot);
  if (path === undefined) return [];
  return [{ path, text: mountTableText([medium], slot.mount === undefined ? slot.id : undefined) }];
}

const hex = (bytes: Uint8Array) => Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');

function fileOf({ path, text }: WrittenText, time: string): TreeFile {
  const made = new TextEncoder().encode(text);
  return {
    kind: 'file',
    path,
    time,
    size: made.length,
    sha256: hex(sha256(made)),
    crc32: crc32(made).toString(16).padStart(8, '0'),
    made,
  };
}

/** Files that were made of the same texts lately: a tree with them need not be put together again. */
const LATELY = 64;
const lately = new Map<string, readonly TreeFile[]>();

function filesOf(slot: PartitionSlot, placement: Placement): readonly TreeFile[] {
  const texts = slot.writes?.flatMap((what) => textsFor(slot, what, placement)) ?? [];
  const { date } = placement.layout;
  const key = JSON.stringify([slot.id, date, texts]);
  const files = lately.get(key) ?? texts.map((one) => fileOf(one, date));
  lately.delete(key);
  lately.set(key, files);
  if (lately.size > LATELY) lately.delete(lately.keys().next().value!);
  return files;
}

/**
 * Places a layout with the files that it asks to be written. What they say depends on ids, names and numbers, which
 * do not depend on what lies in a slot: so it is placed once to know them, and once with them.
 */
export function placeWritten(layout: Layout, contents: Contents = NO_CONTENTS): Placement {
  const placement = place(layout, contents);
  const files = new Map<string, readonly TreeFile[]>();
  for (const { slot } of placement.placed.filter(isPartition))
    if (slot.writes && fillingOf(slot)) files.set(slot.id, filesOf(slot, placement));
  return files.size === 0 ? placement : place(layout, { ...contents, made: (slot) => files.get(slot) ?? [] });
}
