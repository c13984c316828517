/**
 * What an NTFS says of itself beyond its boot sector: its label, and how its system left it. Label and mark stand in record
 * 3 of its file table ("$Volume"); a system that sleeps has its memory in a file of the root directory, which begins with a
 * word of its own.
 */
import type { BlockSource } from '../bytes/blocks';
import {
  type Attribute,
  DATA,
  INDEX_ALLOCATION,
  INDEX_ROOT,
  NtfsRecords,
  VOLUME_INFORMATION,
  VOLUME_NAME,
} from './ntfs-records';

/** What is read of it; nothing where the records cannot be believed. */
export interface NtfsVolume {
  readonly label?: string;
  readonly isDirty?: boolean;
  /** The memory of a system that sleeps lies in it. */
  readonly isAsleep?: boolean;
}

const VOLUME_RECORD = 3;
const ROOT_RECORD = 5;
const DIRTY = 1;

const MEMORY_FILE = 'HIBERFIL.SYS';
/** What the file of a machine that sleeps begins with. */
const ASLEEP = 'HIBR';
/** Blocks of an index that are looked into on the way to a name. */
const DEEPEST = 10;

const utf16 = (view: DataView, at: number, units: number) =>
  String.fromCharCode(...Array.from({ length: units }, (_, i) => view.getUint16(at + 2 * i, true)));

/** An entry of an index: the record of the file that it names, or where to look further for what stands before it. */
interface IndexEntry {
  readonly name: string | undefined;
  readonly record: number;
  readonly below: number | undefined;
}

const [HAS_BELOW, IS_LAST] = [1, 2];
/** Bytes of an entry ahead of its name: its own head, and what it repeats of the file. */
const NAME_AT = 16 + 66;

/** Entries behind the header of an index, which `view` begins with. */
function* entriesOf(view: DataView): Generator<IndexEntry> {
  if (view.byteLength < 16) return;
  const end = Math.min(view.byteLength, view.getUint32(4, true));
  let at = view.getUint32(0, true);
  while (at + 16 <= end) {
    const [length, flags] = [view.getUint16(at + 8, true), view.getUint16(at + 12, true)];
    if (length < 16 || at + length > end) return;
    const below =
      (flags & HAS_BELOW) !== 0 && length >= 24 ? Number(view.getBigUint64(at + length - 8, true)) : undefined;
    const isLast = (flags & IS_LAST) !== 0;
    const units = !isLast && length > NAME_AT ? view.getUint8(at + NAME_AT - 2) : 0;
    const isThere = !isLast && NAME_AT + 2 * units <= length;
    const record = view.getUint32(at, true) + view.getUint16(at + 4, true) * 2 ** 32;
    yield { name: isThere ? utf16(view, at + NAME_AT, units) : undefined, record, below };
    if (isLast) return;
    at += length;
  }
}

/** The record of a file of a folder, whose names are in the order of their capitals; undefined where there is none. */
async function recordOf(
  records: NtfsRecords,
  folder: readonly Attribute[],
  wanted: string,
): Promise<number | undefined> {
  const root = folder.find(({ type }) => type === INDEX_ROOT)?.inside;
  const blocks = folder.find(({ type }) => type === INDEX_ALLOCATION);
  let view =
    root && root.byteLength > 16 ? new DataView(root.buffer, root.byteOffset + 16, root.byteLength - 16) : undefined;
  for (let depth = 0; view && depth < DEEPEST; depth++) {
    let below: number | undefined;
    for (const entry of entriesOf(view)) {
      const name = entry.name?.toUpperCase();
      if (name === wanted) return entry.record;
      below = entry.below;
      if (name === undefined || name > wanted) break;
      below = undefined;
    }
    view = below === undefined || !blocks ? undefined : await records.indexBlock(blocks, below);
  }
  return undefined;
}

async function isAsleep(records: NtfsRecords): Promise<boolean> {
  const record = await recordOf(records, await records.first(ROOT_RECORD), MEMORY_FILE);
  const data = record === undefined ? undefined : (await records.of(record)).find(({ type }) => type === DATA);
  const head = data && (await records.head(data, ASLEEP.length));
  return head !== undefined && String.fromCharCode(...head).toUpperCase() === ASLEEP;
}

/** Reads label and state of the volume that begins `base` bytes into the source and has `available` bytes. */
export async function ntfsVolume(source: BlockSource, base: number, available: number): Promise<NtfsVolume> {
  const records = await NtfsRecords.open(source, base, available);
  if (!records) return {};
  let found: NtfsVolume = {};
  for (const { type, inside } of await records.first(VOLUME_RECORD)) {
    if (type === VOLUME_NAME && inside && inside.byteLength <= 256)
      found = { ...found, label: utf16(inside, 0, Math.floor(inside.byteLength / 2)) };
    if (type === VOLUME_INFORMATION && inside && inside.byteLength >= 12)
      found = { ...found, isDirty: (inside.getUint16(10, true) & DIRTY) !== 0 };
  }
  return (await isAsleep(records)) ? { ...found, isAsleep: true } : found;
}
