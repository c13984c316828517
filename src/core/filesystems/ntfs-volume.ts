/**
 * What an NTFS says of itself beyond its boot sector: its label, and the mark of a volume that was not let go of. Both stand
 * in record 3 of its file table ("$Volume"), of which only attributes that lie in the record are read.
 */
import type { BlockSource } from '../bytes/blocks';

/** What is read of it; nothing where the record cannot be believed. */
export interface NtfsVolume {
  readonly label?: string;
  readonly isDirty?: boolean;
}

const BOOT_LENGTH = 512;
const VOLUME_RECORD = 3;
const LARGEST_RECORD = 4096;
const [VOLUME_NAME, VOLUME_INFORMATION, END] = [0x60, 0x70, 0xffffffff];
const DIRTY = 1;

/** A size that is said as a count of units, or as a power of two where it is negative. */
function sizeOf(byte: number, unit: number): number {
  return byte < 0x80 ? byte * unit : 2 ** (256 - byte);
}

/** The record with the last two bytes of its sectors put back, which are kept in a list at its front. */
function restored(record: Uint8Array, sector: number): DataView | undefined {
  const bytes = Uint8Array.from(record);
  const view = new DataView(bytes.buffer);
  const [at, count] = [view.getUint16(4, true), view.getUint16(6, true)];
  if (String.fromCharCode(...bytes.subarray(0, 4)) !== 'FILE' || count < 1 || at + 2 * count > bytes.length)
    return undefined;
  const mark = view.getUint16(at, true);
  for (let i = 1; i < count; i++) {
    const end = i * sector - 2;
    if (end + 2 > bytes.length || view.getUint16(end, true) !== mark) return undefined;
    view.setUint16(end, view.getUint16(at + 2 * i, true), true);
  }
  return view;
}

/** The attributes of a record that lie in it, by type: where their content begins, and its length. */
function* attributes(view: DataView): Generator<readonly [type: number, at: number, length: number]> {
  let at = view.getUint16(20, true);
  while (at + 24 <= view.byteLength) {
    const [type, length] = [view.getUint32(at, true), view.getUint32(at + 4, true)];
    if (type === END || length < 24 || at + length > view.byteLength) return;
    const [size, offset] = [view.getUint32(at + 16, true), view.getUint16(at + 20, true)];
    if (view.getUint8(at + 8) === 0 && offset + size <= length) yield [type, at + offset, size];
    at += length;
  }
}

/** Reads the label and the mark of the volume that begins `base` bytes into the source and has `available` bytes. */
export async function ntfsVolume(source: BlockSource, base: number, available: number): Promise<NtfsVolume> {
  if (available < BOOT_LENGTH) return {};
  const boot = await source.read(base, BOOT_LENGTH);
  const head = new DataView(boot.buffer, boot.byteOffset, BOOT_LENGTH);
  const sector = head.getUint16(11, true);
  const cluster = sizeOf(head.getUint8(13), sector);
  const record = sizeOf(head.getUint8(64), cluster);
  const place = Number(head.getBigUint64(48, true)) * cluster + VOLUME_RECORD * record;
  const isSane = sector >= 256 && record >= sector && record <= LARGEST_RECORD && Number.isSafeInteger(place);
  if (!isSane || place + record > available) return {};
  const view = restored(await source.read(base + place, record), sector);
  if (!view) return {};
  let found: NtfsVolume = {};
  for (const [type, at, length] of attributes(view)) {
    if (type === VOLUME_NAME && length <= 256) {
      const units = Array.from({ length: Math.floor(length / 2) }, (_, i) => view.getUint16(at + 2 * i, true));
      found = { ...found, label: String.fromCharCode(...units) };
    }
    if (type === VOLUME_INFORMATION && length >= 12)
      found = { ...found, isDirty: (view.getUint16(at + 10, true) & DIRTY) !== 0 };
  }
  return found;
}
