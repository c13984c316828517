/**
 * The survey: what a medium says of itself. Reads by ranges only, never the whole medium,
 * takes nothing from the layout that may have made it, and ends in bounded time and memory
 * whatever the bytes are.
 */
import { MIB } from '../quantity/units';
import type { BlockSource } from '../bytes/blocks';
import { PARTITION_LIMITS, SURVEY_LIMITS } from '../bytes/budget';
import { headWord, type Inside, isExt, isVolume, readVolume, recognise } from '../filesystems/readers';
import { lookAtExt } from '../filesystems/ext/found';
import { lostHead } from '../filesystems/lost-heads';
import { ntfsVolume } from '../filesystems/ntfs-volume';
import { HEAD_LENGTH, type KnownContent } from '../filesystems/signatures';
import { attributeWords, decodeHeader, type GptEntry, gptPlaces } from '../tables/gpt';
import { CODE_LENGTH, decodeMbr, type DecodedMbr, partitionId } from '../tables/mbr';
import { promiseOf, typeCode } from '../tables/types';
import { readChain } from './chain';
import {
  type ChainTrouble,
  type FoundGap,
  type FoundGpt,
  type FoundPartition,
  type Leftover,
  type Survey,
  authority,
} from './found';
import { lookInto } from './gaps';
import { type Copy, readGpt } from './gpt';
import { firstData, SurveyReader } from './reader';
import { isTable } from './is-table';

export interface SurveyOptions {
  readonly sectorSize: 512 | 4096;
  /** Read file systems in full, whatever that takes: for what was just built. */
  readonly isFull?: boolean;
  /** True when the time is over, or nobody waits for it any more: what is not read by then is told. */
  readonly isOver?: (() => boolean) | undefined;
}

type Entry = Omit<FoundPartition, 'inside'>;

/** What is inside a stretch of the medium. */
export async function lookInside(
  reader: SurveyReader,
  start: number,
  sectors: number,
  sectorSize: number,
): Promise<Inside> {
  const at = start * sectorSize;
  if (at >= reader.size || sectors <= 0) return { kind: 'out of reach' };
  const available = Math.min(sectors * sectorSize, Number.MAX_SAFE_INTEGER - at);
  const volume = await readVolume(reader, at, available, { tableBytes: reader.fatBudget, isFull: reader.isFull });
  if (volume) return volume;
  const length = Math.min(available, reader.size - at);
  if (reader.isHole(at, length)) return { kind: 'zeros' };
  const head = await reader.read(at, Math.min(HEAD_LENGTH, length));
  const tail = length > HEAD_LENGTH ? await reader.read(at + length - TAIL_LENGTH, TAIL_LENGTH) : new Uint8Array(0);
  const content = recognise(head, tail);
  if (content?.name === 'NTFS') {
    const { label, isDirty, isAsleep } = await ntfsVolume(reader, at, length);
    const state = isAsleep ? 'left asleep' : isDirty ? 'not cleanly unmounted' : undefined;
    return { kind: 'known', content: { ...content, ...(label && { label }), ...(state && { state }) } };
  }
  if (content && isExt(content)) return { kind: 'known', content: await extContent(reader, at, length, content, tail) };
  if (content) return { kind: 'known', content };
  const lost = await lostHead(reader, at, length);
  return { kind: firstData(head) < 0 ? 'zeros' : 'unknown', ...(lost && { lost }) };
}

/** What is known of an ext: as a kernel would see it, and what its structures say. */
async function extContent(
  reader: SurveyReader,
  at: number,
  length: number,
  content: KnownContent,
  tail: Uint8Array,
): Promise<KnownContent> {
  const { view, places, ...looked } = await lookAtExt(reader, at, length);
  const settled = recognise(await view.read(at, Math.min(HEAD_LENGTH, length)), tail);
  const { words, refused, broken, partly, faults } = looked;
  const isTold = [...words, ...partly, ...faults].length > 0 || refused !== undefined || broken !== undefined;
  return {
    ...(settled?.name === content.name ? settled : content),
    ...(content.state && { state: content.state }),
    ...(isTold && { looked }),
    ...(places && { places }),
  };
}

/** Bytes at the end of a partition in which marks may stand. */
const TAIL_LENGTH = 64 * 1024;

function isContainer(type: number): boolean {
  return promiseOf(typeCode(type)) === 'container';
}

/** Entries of an MBR, with the chains of its containers. */
async function mbrEntries(reader: SurveyReader, mbr: DecodedMbr, sectorSize: number) {
  const entries: Entry[] = [];
  const troubles: ChainTrouble[] = [];
  const common = { name: '', attributes: [] };
  let logicalNumber = 5;
  for (const entry of mbr.entries) {
    const number = entry.index + 1;
    const kind = isContainer(entry.type) ? ('container' as const) : ('primary' as const);
    entries.push({
      ...common,
      key: String(number),
      kind,
      number,
      start: entry.first,
      sectors: entry.count,
      type: typeCode(entry.type),
      active: entry.active,
      status: mbr.records[entry.index]!.status,
      id: partitionId(mbr.signature, number),
      recordAt: 0,
    });
    if (kind === 'primary') continue;
    const chain = await readChain(reader, entry, sectorSize);
    troubles.push(...chain.troubles);
    for (const { entry: logical, start, recordAt } of chain.logicals) {
      entries.push({
        ...common,
        key: String(logicalNumber),
        kind: 'logical',
        number: logicalNumber,
        start,
        sectors: logical.count,
        type: typeCode(logical.type),
        active: logical.active,
        status: logical.active ? 0x80 : 0,
        id: partitionId(mbr.signature, logicalNumber),
        recordAt,
      });
      logicalNumber += 1;
    }
  }
  return { entries, troubles };
}

function gptEntry(entry: GptEntry): Entry {
  return {
    key: String(entry.index + 1),
    kind: 'gpt',
    number: entry.index + 1,
    start: entry.first,
    sectors: Math.max(0, entry.last - entry.first + 1),
    type: entry.type,
    active: false,
    status: 0,
    id: entry.id,
    name: entry.name,
    attributes: attributeWords(entry.attributes),
    recordAt: 0,
  };
}

function wholeMedium(sectors: number): Entry {
  return {
    key: 'whole',
    kind: 'whole medium',
    number: 0,
    start: 0,
    sectors,
    type: '',
    active: false,
    status: 0,
    id: '',
    name: '',
    attributes: [],
    recordAt: 0,
  };
}

/** Stretches that nothing claims, in sectors. */
function gapsBetween(taken: readonly { start: number; end: number }[], sectors: number) {
  const gaps: { start: number; sectors: number }[] = [];
  let cursor = 0;
  for (const { start, end } of [...taken].sort((a, b) => a.start - b.start)) {
    if (start > cursor) gaps.push({ start: cursor, sectors: Math.min(start, sectors) - cursor });
    cursor = Math.max(cursor, end);
    if (cursor >= sectors) return gaps;
  }
  if (cursor < sectors) gaps.push({ start: cursor, sectors: sectors - cursor });
  return gaps;
}

/** Sectors that the table itself takes. */
function tableSpans(survey: Pick<Survey, 'table' | 'gpt' | 'sectorSize' | 'sectors'>, entries: readonly Entry[]) {
  const spans = survey.table === 'none' ? [] : [{ start: 0, end: 1 }];
  for (const { recordAt } of entries) if (recordAt > 0) spans.push({ start: recordAt, end: recordAt + 1 });
  if (survey.table !== 'gpt') return spans;
  const usual = gptPlaces(survey.sectorSize, survey.sectors);
  const isAt = (copy: FoundGpt | undefined) => copy?.headerSound === true;
  // A copy that is lost or damaged has left its bytes at the usual place.
  if (!isAt(survey.gpt.first)) spans.push({ start: 1, end: usual.firstUsable });
  if (!isAt(survey.gpt.copy)) spans.push({ start: usual.backupArray, end: survey.sectors });
  for (const copy of [survey.gpt.first, survey.gpt.copy]) {
    if (!copy || !isAt(copy)) continue;
    const length = Math.ceil(Math.min(copy.entries * copy.entrySize, MIB) / survey.sectorSize);
    spans.push({ start: copy.sector, end: copy.sector + 1 }, { start: copy.array, end: copy.array + length });
  }
  return spans;
}

/** Marks of file systems at the places in a gap where a partition may once have begun. */
async function formerPlaces(reader: SurveyReader, gap: FoundGap, sectorSize: number): Promise<Leftover[]> {
  const found: Leftover[] = [];
  const mebibyte = MIB / sectorSize;
  const next = Math.ceil(Math.max(gap.start, 1) / mebibyte) * mebibyte;
  const places = [...new Set([gap.start, 63, next])].filter(
    (sector) => sector >= Math.max(1, gap.start) && sector < gap.start + gap.sectors,
  );
  for (const sector of places) {
    const length = (gap.start + gap.sectors - sector) * sectorSize;
    const head = await reader.upTo(sector * sectorSize, Math.min(HEAD_LENGTH, length));
    const what = headWord(head);
    if (what) found.push({ sector, what: `the start of ${what}` });
  }
  return found;
}

/** A file system whose mark stands over the whole medium, beside a table. */
async function besideTable(reader: SurveyReader): Promise<KnownContent | undefined> {
  return recognise(await reader.upTo(0, HEAD_LENGTH), new Uint8Array(0));
}

const ISO = 'ISO 9660';

async function readTable(reader: SurveyReader, sectorSize: 512 | 4096, sectors: number) {
  const sector0 = await reader.upTo(0, sectorSize);
  const decoded = decodeMbr(sector0);
  const mbr = typeof decoded === 'string' ? undefined : decoded;
  const copies = await readGpt(reader, sectorSize, sectors);
  const protective = mbr?.entries.find((entry) => promiseOf(typeCode(entry.type)) === 'protective');
  const gpt = { first: copies.first?.found, copy: copies.copy?.found };
  const hasGpt = gpt.first !== undefined || gpt.copy !== undefined;
  const isGpt = hasGpt && (protective !== undefined || (!mbr && authority({ gpt }) !== undefined));
  // Of less than one sector nobody makes a medium.
  const isMbr = sectors > 0 && mbr !== undefined && (await isTable(reader, sector0, mbr, sectors));
  const kind: Survey['table'] = isGpt ? 'gpt' : isMbr ? 'mbr' : 'none';
  return { mbr, copies, gpt, protective, kind };
}

async function otherSectorSize(reader: SurveyReader, sectorSize: 512 | 4096): Promise<512 | 4096 | undefined> {
  const other = sectorSize === 512 ? 4096 : 512;
  const header = decodeHeader(await reader.upTo(other, Math.min(other, 512)));
  return header?.here === 1 ? other : undefined;
}

function sameEntries(a: Copy | undefined, b: Copy | undefined): boolean {
  if (!a || !b) return true;
  const claims = ({ found }: Copy) => [
    found.diskId,
    found.arrayCrc,
    found.firstUsable,
    found.lastUsable,
    found.entries,
    found.entrySize,
  ];
  return claims(a).join() === claims(b).join();
}

/** Partitions of which it is known what is inside. */
function recognised({ partitions }: Survey): number {
  return partitions.filter(({ inside }) => isVolume(inside) || inside.kind === 'known').length;
}

/**
 * The survey at the sector size that fits what is found; `at` surveys at one. 4096 where there is a GPT for
 * it, or a FAT of such sectors over the whole medium; and for an MBR, which does not say, where only then
 * something is recognised in its partitions.
 */
export async function surveyFitting(at: (sectorSize: 512 | 4096) => Promise<Survey>): Promise<Survey> {
  const first = await at(512);
  const [whole] = first.partitions;
  const isLarge =
    whole?.kind === 'whole medium' && whole.inside.kind === 'fat' && whole.inside.fat.shape.sectorSize === 4096;
  if (first.otherSectorSize === 4096 || isLarge) return at(4096);
  if (first.table !== 'mbr' || first.partitions.length === 0 || recognised(first) > 0) return first;
  const other = await at(4096);
  return recognised(other) > 0 ? other : first;
}

/** Surveys a source. Rejects when the source does, and with a BudgetSpent when it is over before the table was read. */
export async function surveyMedium(
  source: BlockSource,
  { sectorSize, isFull = false, isOver }: SurveyOptions,
): Promise<Survey> {
  const reader = new SurveyReader(source, isFull, isFull ? undefined : { ...SURVEY_LIMITS, isOver });
  const unread: string[] = [];
  const sectors = Math.floor(source.size / sectorSize);
  const { mbr, copies, gpt, protective, kind } = await readTable(reader, sectorSize, sectors);
  const chosen = authority({ gpt });
  const authoritative = chosen && (chosen === copies.first?.found ? copies.first : copies.copy);

  // What says something of the whole medium is read first: partitions may take all that may be read.
  const beside = kind === 'none' ? undefined : await besideTable(reader);
  const other = gpt.first || gpt.copy ? undefined : await otherSectorSize(reader, sectorSize);
  const entries: Entry[] = [];
  let chain: ChainTrouble[] = [];
  if (mbr && kind !== 'none') {
    const read = await mbrEntries(reader, mbr, sectorSize);
    chain = read.troubles;
    // Beside a GPT the protective entry is no partition, and real ones make it a hybrid.
    const own = read.entries.filter((entry) => kind === 'mbr' || promiseOf(entry.type) !== 'protective');
    entries.push(...own.map((entry) => (kind === 'mbr' ? entry : { ...entry, key: `mbr-${entry.key}` })));
  }
  if (kind === 'gpt') entries.unshift(...(authoritative?.entries ?? []).map(gptEntry));
  if (kind === 'none' && sectors > 0) entries.push(wholeMedium(sectors));

  const partitions: FoundPartition[] = [];
  for (const entry of entries) {
    const inside: Inside | undefined =
      entry.kind === 'container'
        ? { kind: 'unknown' }
        : await reader.within(PARTITION_LIMITS, () => lookInside(reader, entry.start, entry.sectors, sectorSize));
    if (!inside) unread.push(entry.key);
    partitions.push({ ...entry, inside: inside ?? { kind: 'unknown' } });
  }

  const taken = [
    ...tableSpans({ table: kind, gpt, sectorSize, sectors }, entries),
    ...entries
      .filter((one) => one.kind !== 'container')
      .map((one) => ({ start: one.start, end: one.start + one.sectors })),
  ];
  const gaps: FoundGap[] = [];
  const iso = beside?.name === ISO ? beside : undefined;
  const leftovers: Leftover[] = [];
  // From a time without a table its mark is still there; an ISO 9660 that is a disk too is meant so.
  if (beside && !iso) leftovers.push({ sector: 0, what: `${beside.name} over the whole medium` });
  const isInIso = ({ start }: { start: number }) => start * sectorSize < (iso?.size ?? 0);
  for (const [i, gap] of gapsBetween(taken, sectors).entries()) {
    const look = async () => {
      const looked = await lookInto(reader, gap, sectorSize, i === 0);
      const isOld = looked.dataAt !== undefined && !isInIso(gap);
      return { looked, old: isOld ? await formerPlaces(reader, looked, sectorSize) : [] };
    };
    const seen = await reader.within(PARTITION_LIMITS, look);
    gaps.push(seen?.looked ?? { ...gap, dataAt: undefined, seenWhole: false });
    leftovers.push(...(seen?.old ?? []));
    if (!seen) unread.push(`gap ${gap.start}`);
  }
  return {
    size: source.size,
    sectorSize,
    sectors,
    table: kind,
    mbr: mbr && {
      signature: mbr.signature,
      records: mbr.records.filter((one) => one.status !== 0 || one.type !== 0 || one.first !== 0 || one.count !== 0),
      hasCode: firstData(mbr.code.subarray(0, CODE_LENGTH)) >= 0,
      protectiveCount: protective?.count,
      protectiveActive: protective?.active === true,
    },
    gpt,
    gptCopiesAgree: sameEntries(copies.first, copies.copy),
    otherSectorSize: other,
    unread,
    partitions,
    chain,
    gaps,
    leftovers,
    iso,
    read: reader.spent,
  };
}
