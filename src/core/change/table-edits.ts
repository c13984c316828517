/**
 * A table that exists, edited: the entries that a layout changes get other fields, those of partitions that go are
 * emptied, new ones come in, and every other byte stays as it was found. A table of another kind is written whole.
 */
import { crc32 } from '../bytes/crc32';
import type { BlockSource } from '../bytes/blocks';
import { decode, encode } from '../bytes/record';
import { besideEntries, tableRanges } from '../compose/compose';
import type { Layout } from '../layout/document';
import { changesOf, foundOf, isKept } from '../layout/kept';
import { fail, ok, type Result } from '../quantity/result';
import { type Entered, isEntered, lastSector, type Placement } from '../placement/placement';
import { isBeside, authority, type FoundGpt, type Survey } from '../survey/found';
import {
  arraySectors,
  attributeBits,
  ATTRIBUTES,
  encodeEntry,
  GPT_ENTRY_LENGTH,
  GPT_ENTRY_RECORD,
  HEADER_RECORD,
} from '../tables/gpt';
import { CODE_LENGTH, encodeChain, entryOffset, MBR_LENGTH, MBR_RECORD, mbrEntry } from '../tables/mbr';
import { alike, Draft, type Put } from './plan';

/** Entries of a placement that are kept exactly as they were found. */
function isUntouched({ slot, entry }: Entered, layout: Layout): boolean {
  const was = foundOf(layout, slot);
  if (!was || !isKept(slot) || entry.number !== slot.keeps) return false;
  return changesOf(slot, was, layout).every((change) => change === 'formatted');
}

/** The bytes of an entry of a GPT with what the layout says; bits without a word, and a name that is not changed, stay. */
function gptEntryBytes(one: Entered, old: Uint8Array, layout: Layout): Uint8Array {
  const { slot, entry, start } = one;
  const was = foundOf(layout, slot);
  const kept = isKept(slot) && was ? changesOf(slot, was, layout) : undefined;
  const unknown = kept ? new DataView(old.buffer, old.byteOffset).getBigUint64(ATTRIBUTES_AT, true) & ~ALL_WORDS : 0n;
  const bytes = encodeEntry({
    index: entry.number - 1,
    type: entry.type,
    id: entry.id,
    first: start,
    last: lastSector(one),
    attributes: attributeBits(slot.attributes ?? []) | unknown,
    name: slot.name,
  });
  if (!kept || kept.includes('renamed')) return bytes;
  const { offset } = GPT_ENTRY_RECORD.fields.name;
  bytes.set(old.subarray(offset, GPT_ENTRY_LENGTH), offset);
  return bytes;
}

const ATTRIBUTES_AT = GPT_ENTRY_RECORD.fields.attributes.offset;
const ALL_WORDS = attributeBits(ATTRIBUTES);

/** The array of entries with what a layout says. */
function editedArray(array: Uint8Array, header: FoundGpt, { placed, layout }: Placement): Uint8Array {
  const bytes = Uint8Array.from(array);
  const { entrySize, entries } = header;
  const entered = placed.filter(isEntered);
  for (let index = 0; index < entries && (index + 1) * entrySize <= bytes.length; index++) {
    const slice = bytes.subarray(index * entrySize, (index + 1) * entrySize);
    const one = entered.find(({ entry }) => entry.number === index + 1);
    if (!one) {
      // An entry of no type is unused, whatever else stands in it.
      if (slice.subarray(0, 16).some((byte) => byte !== 0)) slice.fill(0);
    } else if (!isUntouched(one, layout)) {
      const old = Uint8Array.from(slice);
      if (!isKept(one.slot)) slice.fill(0);
      slice.set(gptEntryBytes(one, old, layout));
    }
  }
  return bytes;
}

/** A header with other fields, and its checksum made anew; its other bytes stay. */
function editedHeader(
  sector: Uint8Array,
  { headerSize }: FoundGpt,
  fields: {
    readonly diskId: string;
    readonly firstUsable: number;
    readonly lastUsable: number;
    readonly arrayCrc: number;
  },
): Uint8Array {
  const bytes = Uint8Array.from(sector);
  const values = decode(HEADER_RECORD, sector);
  bytes.set(
    encode(HEADER_RECORD, {
      ...values,
      diskId: fields.diskId,
      firstUsable: BigInt(fields.firstUsable),
      lastUsable: BigInt(fields.lastUsable),
      arrayCrc: fields.arrayCrc,
      headerCrc: 0,
    }),
  );
  const view = new DataView(bytes.buffer);
  view.setUint32(HEADER_RECORD.fields.headerCrc.offset, crc32(bytes.subarray(0, headerSize)), true);
  return bytes;
}

type Edited = Result<readonly Put[], string>;

async function editedGpt(placement: Placement, survey: Survey, source: BlockSource): Promise<Edited> {
  const { layout, sectorSize, sectors } = placement;
  const { first, copy } = survey.gpt;
  const diskId = layout.table.kind === 'gpt' ? layout.table.diskId : '';
  const chosen = authority(survey);
  if (!chosen) return fail('neither copy of its GPT can be believed');
  const length = arraySectors(chosen, sectorSize) * sectorSize;
  const array = await source.read(chosen.array * sectorSize, length);
  const made = editedArray(array, chosen, placement);
  // Where something stays, the header stays too, whatever it says of the place.
  const entered = placement.placed.filter(isEntered).filter((one) => !isUntouched(one, layout));
  const firstUsable = Math.min(chosen.firstUsable, ...entered.map(({ start }) => start));
  const lastUsable = Math.max(chosen.lastUsable, ...entered.map(lastSector));
  const isSame = alike(array, made) && chosen.diskId === diskId;
  if (isSame && firstUsable === chosen.firstUsable && lastUsable === chosen.lastUsable) return ok([]);
  if (!first || chosen !== first || first.sector !== 1)
    return fail('its first GPT cannot be believed; mend it first: “loess repair”');
  if (copy?.headerSound !== true || copy.sector !== sectors - 1 || !survey.gptCopiesAgree)
    return fail('the copy of its GPT is not in its last sectors, or is another one; mend it first: “loess repair”');
  const arrayCrc = crc32(made.subarray(0, first.entries * first.entrySize));
  const fields = { diskId, firstUsable, lastUsable, arrayCrc };
  const header = async ({ sector }: FoundGpt, found: FoundGpt) =>
    editedHeader(await source.read(sector * sectorSize, sectorSize), found, fields);
  const put = (what: string, sector: number, bytes: Uint8Array): Put => ({
    what,
    extent: { offset: sector * sectorSize, bytes },
  });
  return ok([
    put('GPT header', 1, await header(first, first)),
    put('GPT entries', first.array, made),
    put('GPT entries, copy', copy.array, made),
    put('GPT header, copy', copy.sector, await header(copy, copy)),
  ]);
}

/** Sector 0 beside a GPT: changed only where partitions that it shows are. */
async function editedProtective(placement: Placement, survey: Survey, source: BlockSource): Promise<readonly Put[]> {
  const { sectorSize } = placement;
  const shown = survey.partitions.filter(isBeside);
  const meant = besideEntries(placement);
  const isSame =
    shown.every(
      ({ start, sectors }) =>
        isShownElse(start, sectors, survey) || meant.some((one) => one.first === start && one.count === sectors),
    ) && meant.every(({ first, count }) => shown.some((one) => one.start === first && one.sectors === count));
  if (isSame) return [];
  const whole = tableRanges(placement).find(({ extent }) => extent.offset <= CODE_LENGTH && 'bytes' in extent);
  const old = await source.read(0, sectorSize);
  const bytes = Uint8Array.from(old);
  const fresh = whole && 'bytes' in whole.extent ? whole.extent.bytes : undefined;
  if (fresh)
    bytes.set(fresh.subarray(entryOffset(0) - whole!.extent.offset, MBR_LENGTH - whole!.extent.offset), entryOffset(0));
  return [{ what: 'protective master boot record', extent: { offset: 0, bytes } }];
}

/** An entry beside a GPT that shows no partition of it: it is left alone. */
function isShownElse(start: number, sectors: number, { partitions }: Survey): boolean {
  return !partitions.some((one) => one.kind === 'gpt' && one.start === start && one.sectors === sectors);
}

/** Records of sector 0 and of the chain with what a layout says. */
async function editedMbr(placement: Placement, survey: Survey, source: BlockSource): Promise<Edited> {
  const { layout, sectorSize, containers, placed } = placement;
  if (layout.table.kind !== 'mbr') return ok([]);
  const draft = new Draft(source);
  const sector0 = Uint8Array.from(await source.read(0, sectorSize));
  const entered = placed.filter(isEntered);
  const container = layout.found?.container;
  const isContainerSame = staysAsFound(placement, survey);
  for (let index = 0; index < 4; index++) {
    const slice = sector0.subarray(entryOffset(index), entryOffset(index + 1));
    const one = entered.find(({ entry, recordAt }) => recordAt === undefined && entry.number === index + 1);
    const box = containers.find(({ number }) => number === index + 1);
    if (box) {
      const isSame = isContainerSame && box.number === container?.number;
      const type = parseInt(box.type, 16);
      if (!isSame) slice.set(mbrEntry({ active: slice[0] === 0x80, type, first: box.start, count: box.sectors }));
    } else if (!one) {
      // A container with nothing in it is left as it was found.
      const isEmptyBox = container?.number === index + 1 && !survey.partitions.some(({ kind }) => kind === 'logical');
      if (slice[4] !== 0 && !isEmptyBox) slice.fill(0);
    } else if (!isUntouched(one, layout)) {
      slice.set(
        mbrEntry({
          active: one.slot.active === true,
          type: parseInt(one.entry.type, 16),
          first: one.start,
          count: one.sectors,
        }),
      );
    }
  }
  new DataView(sector0.buffer).setUint32(
    MBR_RECORD.fields.signature.offset,
    parseInt(layout.table.signature, 16),
    true,
  );
  draft.put('master boot record', 0, sector0);
  await editChain(draft, placement, survey, source);
  return ok(draft.puts());
}

/** The chain of a placement, in the order of its numbers. */
function chainOf({ placed }: Placement): Entered[] {
  return placed
    .filter(isEntered)
    .filter(({ recordAt }) => recordAt !== undefined)
    .sort((a, b) => a.entry.number - b.entry.number);
}

/** True where every logical partition that was found stays as it is, and no other one comes. */
function isChainSame(placement: Placement, survey: Survey): boolean {
  const { layout } = placement;
  const chain = chainOf(placement);
  const found = survey.partitions.filter(({ kind }) => kind === 'logical');
  return (
    chain.length === found.length &&
    chain.every((one) => isUntouched(one, layout) && foundOf(layout, one.slot)?.recordAt === one.recordAt)
  );
}

/** True where the entry of the container can stay: so does its chain, and nothing new comes into its range. */
function staysAsFound(placement: Placement, survey: Survey): boolean {
  const { layout, placed } = placement;
  const box = layout.found?.container;
  if (!box || !isChainSame(placement, survey)) return false;
  const isIn = ({ start, sectors }: Entered) => start < box.at + box.sectors && start + sectors > box.at;
  return !placed.filter(isEntered).some((one) => one.recordAt === undefined && !isUntouched(one, layout) && isIn(one));
}

/** Rewrites the records of the chain where its members are others, or lie elsewhere. */
async function editChain(draft: Draft, placement: Placement, survey: Survey, source: BlockSource): Promise<void> {
  const { sectorSize } = placement;
  if (isChainSame(placement, survey)) return;
  const chain = chainOf(placement);
  const found = survey.partitions.filter(({ kind }) => kind === 'logical');
  const records = encodeChain(
    chain.map((one) => ({
      // A mark that was found in a chain stays; none is put there.
      active: one.slot.active === true && foundOf(placement.layout, one.slot)?.active === true,
      type: parseInt(one.entry.type, 16),
      recordAt: one.recordAt!,
      first: one.start,
      count: one.sectors,
    })),
    sectorSize,
  );
  // The chain begins in the container's first sector even where a record that was there has gone.
  for (const [i, { sector, bytes }] of records.entries()) {
    const isOld = found.some(({ recordAt }) => recordAt === sector);
    const there = isOld
      ? Uint8Array.from(await source.read(sector * sectorSize, sectorSize))
      : new Uint8Array(sectorSize);
    // Of a record that was there, all but its entries and its mark stays.
    there.set(bytes.subarray(entryOffset(0), MBR_LENGTH), entryOffset(0));
    draft.put(`record of partition ${chain[i]!.entry.number}`, sector * sectorSize, there);
  }
  const kept = new Set(records.map(({ sector }) => sector));
  for (const { recordAt, number } of found) {
    if (kept.has(recordAt) || isInside(recordAt, placement)) continue;
    draft.put(`former record of partition ${number}`, recordAt * sectorSize, new Uint8Array(sectorSize));
  }
}

/** True for a sector that a slot of the layout takes. */
function isInside(sector: number, { placed }: Placement): boolean {
  return placed.some(({ start, sectors }) => sector >= start && sector < start + sectors);
}

/** The ranges that turn the table of a medium into that of a layout, or why they cannot be made. */
export async function tableEdits(placement: Placement, survey: Survey, source: BlockSource): Promise<Edited> {
  const { table } = placement.layout;
  if (table.kind !== survey.table) return fail('its table is of another kind');
  if (table.kind === 'none') return ok([]);
  if (table.kind === 'mbr') return editedMbr(placement, survey, source);
  const gpt = await editedGpt(placement, survey, source);
  return gpt.ok ? ok([...(await editedProtective(placement, survey, source)), ...gpt.value]) : gpt;
}
