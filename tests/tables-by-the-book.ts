/**
 * A second reader of partition tables, small and independent: written for the tests from the UEFI
 * specification ("GUID Partition Table Disk Layout", "Legacy Master Boot Record") and the
 * long-published boot record, on a DataView and nothing of the program. Surveys are held against it.
 */
import type { BlockSource } from '@/core/bytes/blocks';

/** A partition as any reader must see it. Sectors of the medium. */
export interface BookPartition {
  readonly number: number;
  readonly start: number;
  readonly sectors: number;
  readonly type: string;
  readonly active: boolean;
  readonly id: string;
  readonly name: string;
}

/** What the table says; `none` where sector 0 is no table. */
export interface Book {
  readonly table: 'mbr' | 'gpt' | 'none';
  readonly partitions: readonly BookPartition[];
}

const LARGEST = Number.MAX_SAFE_INTEGER;
const CONTAINERS = [0x05, 0x0f, 0x85];

function crc(bytes: Uint8Array): number {
  let sum = ~0;
  for (const byte of bytes) {
    sum ^= byte;
    for (let i = 0; i < 8; i++) sum = (sum >>> 1) ^ (sum & 1 ? 0xedb88320 : 0);
  }
  return ~sum >>> 0;
}

interface Slot {
  status: number;
  type: number;
  first: number;
  count: number;
}

async function recordAt(source: BlockSource, at: number): Promise<Slot[] | undefined> {
  if (at + 512 > source.size) return undefined;
  const bytes = await source.read(at, 512);
  const view = new DataView(bytes.buffer, bytes.byteOffset, 512);
  if (view.getUint16(510) !== 0x55aa) return undefined;
  return [446, 462, 478, 494].map((place) => ({
    status: view.getUint8(place),
    type: view.getUint8(place + 4),
    first: view.getUint32(place + 8, true),
    count: view.getUint32(place + 12, true),
  }));
}

function guid(view: DataView, at: number): string {
  const digits = (n: number, width: number) => n.toString(16).padStart(width, '0');
  const tail = [8, 9, 10, 11, 12, 13, 14, 15].map((i) => digits(view.getUint8(at + i), 2)).join('');
  const head = [
    digits(view.getUint32(at, true), 8),
    digits(view.getUint16(at + 4, true), 4),
    digits(view.getUint16(at + 6, true), 4),
  ];
  return `${head.join('-')}-${tail.slice(0, 4)}-${tail.slice(4)}`;
}

/** Where a header that may be damaged says that the other copy is; undefined where there is no header. */
async function otherCopy(source: BlockSource, sector: number, size: number): Promise<number | undefined> {
  if (sector < 1 || (sector + 1) * size > source.size) return undefined;
  const bytes = await source.read(sector * size, size);
  if (String.fromCharCode(...bytes.subarray(0, 8)) !== 'EFI PART') return undefined;
  return long(new DataView(bytes.buffer, bytes.byteOffset, size), 32);
}

const long = (view: DataView, at: number): number => {
  const value = view.getBigUint64(at, true);
  return value > BigInt(LARGEST) ? LARGEST : Number(value);
};

/** One copy of a GPT; undefined where header or entries cannot be believed. */
async function gptAt(source: BlockSource, sector: number, size: number): Promise<BookPartition[] | undefined> {
  if (sector < 1 || (sector + 1) * size > source.size) return undefined;
  const bytes = Uint8Array.from(await source.read(sector * size, size));
  const view = new DataView(bytes.buffer);
  if (String.fromCharCode(...bytes.subarray(0, 8)) !== 'EFI PART') return undefined;
  const [length, sum] = [view.getUint32(12, true), view.getUint32(16, true)];
  if (length < 92 || length > size) return undefined;
  view.setUint32(16, 0);
  if (crc(bytes.subarray(0, length)) !== sum) return undefined;
  const [array, count, each] = [long(view, 72), view.getUint32(80, true), view.getUint32(84, true)];
  if (each < 128 || each % 8 !== 0 || count === 0 || count * each > 2 ** 20) return undefined;
  if (array * size + count * each > source.size) return undefined;
  const entries = await source.read(array * size, count * each);
  if (crc(entries) !== view.getUint32(88, true)) return undefined;
  const all = new DataView(entries.buffer, entries.byteOffset, entries.byteLength);
  const found: BookPartition[] = [];
  for (let i = 0; i < count; i++) {
    const at = i * each;
    const type = guid(all, at);
    if (/^[0-]+$/.test(type)) continue;
    const [start, last] = [long(all, at + 32), long(all, at + 40)];
    let name = '';
    for (let unit = 0; unit < 36; unit++) {
      const code = all.getUint16(at + 56 + 2 * unit, true);
      if (code === 0) break;
      name += String.fromCharCode(code);
    }
    const sectors = Math.max(0, last - start + 1);
    found.push({ number: i + 1, start, sectors, type, active: false, id: guid(all, at + 16), name });
  }
  return found;
}

async function logicals(source: BlockSource, box: Slot, size: number): Promise<Omit<BookPartition, 'id' | 'number'>[]> {
  const found: Omit<BookPartition, 'id' | 'number'>[] = [];
  const seen = new Set<number>();
  let at: number | undefined = box.first;
  while (at !== undefined && !seen.has(at) && seen.size < 256) {
    if (at < box.first || at >= box.first + box.count) break;
    const record: Slot[] | undefined = (at + 1) * size > source.size ? undefined : await recordAt(source, at * size);
    if (!record) break;
    seen.add(at);
    const used: Slot[] = record.slice(0, 2).filter(({ count, type }) => count > 0 && type !== 0);
    const own: Slot | undefined = used.find(({ type }) => !CONTAINERS.includes(type));
    const link: Slot | undefined = used.find(({ type }) => CONTAINERS.includes(type));
    if (own)
      found.push({
        start: at + own.first,
        sectors: own.count,
        type: own.type.toString(16).toUpperCase().padStart(2, '0'),
        active: own.status === 0x80,
        name: '',
      });
    at = link && box.first + link.first;
  }
  return found;
}

/** Heads of file systems that end like a boot record: FAT by its figures, others by their name. */
function isHead(bytes: Uint8Array): boolean {
  const view = new DataView(bytes.buffer, bytes.byteOffset, 512);
  const name = String.fromCharCode(...bytes.subarray(3, 11));
  if (name === 'EXFAT   ' || name === 'NTFS    ') return true;
  const [sector, cluster, reserved, fats, media] = [
    view.getUint16(11, true),
    view.getUint8(13),
    view.getUint16(14, true),
    view.getUint8(16),
    view.getUint8(21),
  ];
  const jump = view.getUint8(0) === 0xe9 || (view.getUint8(0) === 0xeb && view.getUint8(2) === 0x90);
  const total = view.getUint16(19, true) || view.getUint32(32, true);
  const fat = view.getUint16(22, true) || view.getUint32(36, true);
  const sound =
    jump &&
    [512, 1024, 2048, 4096].includes(sector) &&
    cluster > 0 &&
    (cluster & (cluster - 1)) === 0 &&
    reserved > 0 &&
    (fats === 1 || fats === 2) &&
    (media === 0xf0 || media >= 0xf8);
  if (!sound || fat === 0) return false;
  const data = reserved + fats * fat + Math.ceil((view.getUint16(17, true) * 32) / sector);
  const clusters = Math.floor((total - data) / cluster);
  return clusters >= 1 && clusters <= 268_435_445;
}

/**
 * Reads the table of a medium. Entries of type 00 are unused. `hasVolume` says whether a file
 * system other than FAT, exFAT and NTFS is known to lie over the whole medium: only with an
 * empty table does that decide.
 */
export async function tablesByTheBook(source: BlockSource, size: 512 | 4096, hasVolume: boolean): Promise<Book> {
  const sectors = Math.floor(source.size / size);
  if (sectors === 0) return { table: 'none', partitions: [] };
  const record = await recordAt(source, 0);
  // The copy is in the last sector; where there is none, the first header says where it is.
  const [told, atEnd] = [await otherCopy(source, 1, size), await otherCopy(source, sectors - 1, size)];
  const copyAt = atEnd === undefined ? told : sectors - 1;
  const isMarked =
    told !== undefined || (copyAt !== undefined && (await otherCopy(source, copyAt, size)) !== undefined);
  const gpt = (await gptAt(source, 1, size)) ?? (copyAt === undefined ? undefined : await gptAt(source, copyAt, size));
  const isProtected = record?.some(({ type }) => type === 0xee) ?? false;
  if (isMarked && isProtected) return { table: 'gpt', partitions: gpt ?? [] };
  if (gpt && !record) return { table: 'gpt', partitions: gpt };
  const none: Book = { table: 'none', partitions: [] };
  if (!record || record.some(({ status }) => status !== 0 && status !== 0x80)) return none;
  const bytes = await source.read(0, 512);
  const used = record.filter(({ count }) => count > 0);
  const onMedium = used.filter(({ first: start }) => start < sectors);
  if (used.length > 0 && onMedium.length === 0) return none;
  if (isHead(bytes)) {
    const real = used.filter(({ type }) => type !== 0).sort((a, b) => a.first - b.first);
    const fits = real.every(({ first: start, count }, i) => {
      const next = real[i + 1]?.first ?? sectors;
      return start > 0 && start + count <= Math.min(next, sectors);
    });
    if (real.length === 0 || !fits) return none;
  } else if (used.length === 0 && hasVolume) return none;
  const signature = new DataView(bytes.buffer, bytes.byteOffset, 512)
    .getUint32(440, true)
    .toString(16)
    .padStart(8, '0');
  const id = (number: number) => `${signature}-${number.toString(16).padStart(2, '0')}`;
  const partitions: BookPartition[] = [];
  let logical = 5;
  for (const [i, slot] of record.entries()) {
    if (slot.type === 0) continue;
    if (!CONTAINERS.includes(slot.type)) {
      const type = slot.type.toString(16).toUpperCase().padStart(2, '0');
      const active = slot.status === 0x80;
      partitions.push({ number: i + 1, start: slot.first, sectors: slot.count, type, active, id: id(i + 1), name: '' });
      continue;
    }
    for (const one of await logicals(source, slot, size)) {
      partitions.push({ ...one, number: logical, id: id(logical) });
      logical += 1;
    }
  }
  return { table: 'mbr', partitions };
}
