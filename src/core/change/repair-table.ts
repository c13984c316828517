/**
 * Repairs of a partition table: a copy of a GPT from the other one, its copy brought to the real end of the medium, the
 * entry that protects it, headers of an earlier use taken away.
 */
import type { BlockSource } from '../bytes/blocks';
import { fail, ok, type Result } from '../quantity/result';
import { grouped, sectorCount } from '../quantity/units';
import { authority, isBeside, type FoundGpt, type FoundPartition, lastOf, type Survey } from '../survey/found';
import { arraySectors, decodeEntries, GPT_ENTRY_LENGTH } from '../tables/gpt';
import { entryOffset, MBR_LENGTH } from '../tables/mbr';
import { typeName } from '../tables/types';
import { arrayOf, headerPart, withCopyAt } from './gpt-parts';
import { ENTRIES, protect, protectivePlace } from './protective';
import type { Change, Repair } from './repairs';

/** The partition that lies in some sectors; `last` is inclusive. */
function inTheWay({ partitions }: Survey, first: number, last: number): string | undefined {
  const one = partitions.find(
    (found) => found.kind === 'gpt' && found.sectors > 0 && found.start <= last && lastOf(found) >= first,
  );
  return one && `partition ${one.number}`;
}

const isSound = (copy: FoundGpt | undefined): copy is FoundGpt =>
  copy?.headerSound === true && copy.arraySound === true;

/** True where the bytes can be given up for an array: zeros, or entries as an array has them. */
function isOldArray(bytes: Uint8Array, { sectors }: Survey): boolean {
  if (bytes.every((byte) => byte === 0)) return true;
  const entries = decodeEntries(bytes, GPT_ENTRY_LENGTH);
  return entries.length > 0 && entries.every(({ first, last }) => first >= 1 && last >= first && last < sectors);
}

/** Where the first array goes: where it was, behind the header, or directly ahead of the first sector for partitions. */
async function firstArrayPlace(survey: Survey, copy: FoundGpt, source: BlockSource): Promise<number | undefined> {
  const { sectorSize, gpt } = survey;
  const length = arraySectors(copy, sectorSize);
  // A sound header vouches for its array, whatever became of that.
  const own = gpt.first?.headerSound ? gpt.first.array : undefined;
  for (const place of [own ?? 2, 2, copy.firstUsable - length]) {
    if (place < 2 || place + length > copy.firstUsable || place + length > survey.sectors) continue;
    if (place === own || isOldArray(await source.read(place * sectorSize, length * sectorSize), survey)) return place;
  }
  return undefined;
}

async function firstFromCopy(survey: Survey, source: BlockSource): Promise<Result<Change, string>> {
  const { copy } = survey.gpt;
  if (!isSound(copy)) return fail('the copy at the end cannot be believed either');
  const array = await firstArrayPlace(survey, copy, source);
  if (array === undefined) return fail('where its entries would go lies something else, perhaps a loader');
  return ok([
    headerPart(copy, { here: 1, other: copy.sector, array }, survey.sectorSize),
    { what: 'GPT entries', at: array * survey.sectorSize, bytes: await arrayOf(copy, survey.sectorSize, source) },
  ]);
}

/** Zeros over a copy that is not at the end any more, as far as it lies in no partition; its entries where it vouches for them. */
function withoutFormer(old: FoundGpt, survey: Survey): Change {
  const { sectorSize } = survey;
  const length = arraySectors(old, sectorSize);
  const isFree = (first: number, count: number) => inTheWay(survey, first, first + count - 1) === undefined;
  return [
    ...(isSound(old) && isFree(old.array, length)
      ? [
          {
            what: 'former copy of the GPT entries',
            at: old.array * sectorSize,
            bytes: new Uint8Array(length * sectorSize),
          },
        ]
      : []),
    ...(isFree(old.sector, 1)
      ? [{ what: 'former copy of the GPT header', at: old.sector * sectorSize, bytes: new Uint8Array(sectorSize) }]
      : []),
  ];
}

/** The copy in the last sectors, and the first header that names it. */
async function copyAtEnd(survey: Survey, source: BlockSource): Promise<Result<Change, string>> {
  const { gpt, sectors, sectorSize } = survey;
  const { first, copy: old } = gpt;
  if (!isSound(first)) return fail('the first GPT cannot be believed: it is mended first');
  const length = arraySectors(first, sectorSize);
  const [header, array] = [sectors - 1, sectors - 1 - length];
  const there = inTheWay(survey, array, header);
  if (there !== undefined) return fail(`${there} reaches into the last ${sectorCount(length + 1)}, where it goes`);
  const lastUsable = array - 1;
  if (lastUsable < first.firstUsable || first.array + length > array) return fail('the medium has no room for it');
  return ok([
    ...(old === undefined || old.sector === header ? [] : withoutFormer(old, survey)),
    ...(await withCopyAt(first, sectors, sectorSize, source)),
  ]);
}

/** The entry of sector 0 that covers the medium; all else of the sector stays. */
async function protective(survey: Survey, source: BlockSource): Promise<Result<Change, string>> {
  const { sectors, sectorSize, partitions } = survey;
  const bytes = Uint8Array.from(await source.read(0, sectorSize));
  const isEmpty = (i: number) => bytes.subarray(entryOffset(i), entryOffset(i + 1)).every((byte) => byte === 0);
  const place = protectivePlace(bytes) ?? ENTRIES.find(isEmpty);
  if (place === undefined) return fail('all four entries of sector 0 are taken');
  const beside = partitions.filter(isBeside).map(({ start }) => start);
  protect(bytes, place, Math.min(sectors, ...beside));
  bytes.set([0x55, 0xaa], MBR_LENGTH - 2);
  return ok([{ what: 'master boot record', at: 0, bytes }]);
}

/** Partitions of the GPT that lie exactly where an entry of sector 0 does. */
const shownBy = ({ start, sectors }: FoundPartition, { partitions }: Survey) =>
  partitions.filter((one) => one.kind === 'gpt' && one.start === start && one.sectors === sectors);

/** True for an entry whose sectors are claimed by no partition of the GPT, as those of a table often are. */
const isOnlyBeside = (one: FoundPartition, survey: Survey) =>
  one.sectors > 0 &&
  one.kind !== 'container' &&
  one.start >= (authority(survey)?.firstUsable ?? 0) &&
  !survey.partitions.some(
    ({ kind, start, sectors }) => kind === 'gpt' && start < one.start + one.sectors && start + sectors > one.start,
  );

/** One entry in sector 0 that protects the GPT, and no others; boot code and signature stay. */
async function withoutBeside(survey: Survey, source: BlockSource): Promise<Result<Change, string>> {
  const { sectors, sectorSize, partitions } = survey;
  const alone = partitions.filter(isBeside).find((one) => isOnlyBeside(one, survey));
  if (alone)
    return fail(
      `the entry ${alone.number} of sector 0 shows sectors from ${grouped(alone.start)} on that no partition of the GPT has: nobody would find them`,
    );
  const bytes = Uint8Array.from(await source.read(0, sectorSize));
  // The specification has it in the first entry, and zeros in the others.
  for (const i of ENTRIES) if (i > 0 || protectivePlace(bytes) !== 0) bytes.fill(0, entryOffset(i), entryOffset(i + 1));
  protect(bytes, 0, sectors);
  return ok([{ what: 'master boot record', at: 0, bytes }]);
}

function saysBeside(survey: Survey): Promise<readonly string[]> {
  const words = survey.partitions.filter(isBeside).map((one) => {
    const [shown] = shownBy(one, survey);
    const what = shown ? `shows partition ${shown.number} of the GPT` : `shows no partition of the GPT as it is`;
    const starts = one.active
      ? ' It is marked active: a BIOS that looks for that mark starts the medium no longer.'
      : '';
    return `Entry ${one.number} of sector 0 (${typeName(one.type)}) goes; it ${what}.${starts}`;
  });
  return Promise.resolve(words);
}

/** Headers of a GPT on a medium that has another table; what lies in a partition may be content, and stays. */
function staleGpt(survey: Survey, source: BlockSource): Promise<Result<Change, string>> {
  const { gpt, sectorSize, partitions } = survey;
  const found = [gpt.first, gpt.copy].filter((copy) => copy !== undefined);
  const isFree = ({ sector }: FoundGpt) => !partitions.some((one) => one.start <= sector && lastOf(one) >= sector);
  const taken = found.find((copy) => !isFree(copy));
  if (taken)
    return Promise.resolve(
      fail(`its header in sector ${grouped(taken.sector)} lies in a partition, and may be content`),
    );
  const zeros = new Uint8Array(sectorSize);
  const headers = found.map(({ sector }) => ({
    what: 'GPT header of an earlier use',
    at: sector * sectorSize,
    bytes: zeros,
  }));
  // Entries are taken away where their header vouches for them: they are those of that table.
  const arrays = found
    .filter((copy) => isSound(copy))
    .flatMap((copy) => {
      const length = arraySectors(copy, sectorSize);
      const isOver = partitions.some((one) => one.start < copy.array + length && lastOf(one) >= copy.array);
      return isOver
        ? []
        : [
            {
              what: 'GPT entries of an earlier use',
              at: copy.array * sectorSize,
              bytes: new Uint8Array(length * sectorSize),
            },
          ];
    });
  return Promise.resolve(ok([...headers, ...arrays].filter(({ at, bytes }) => at + bytes.length <= source.size)));
}

/** Repairs of tables, in the order in which they are made together: each makes the next possible. */
export const TABLE_REPAIRS: readonly Repair[] = [
  {
    id: 'first-gpt',
    rules: ['found-gpt/first-copy-bad'],
    label: 'Write the first GPT from its copy',
    why: 'Firmware and systems read the first one; some look no further.',
    change: firstFromCopy,
  },
  {
    id: 'gpt-copy',
    rules: ['found-gpt/last-copy-bad'],
    label: 'Write the copy of the GPT from the first',
    why: 'It stands in for the first where that is lost.',
    change: copyAtEnd,
  },
  {
    id: 'gpt-to-end',
    rules: ['found-gpt/copy-not-at-the-end'],
    label: 'Bring the copy of the GPT to the end of the medium',
    why: 'It is looked for there; what lies behind it could not be used.',
    change: copyAtEnd,
  },
  {
    id: 'protective-entry',
    rules: ['found-gpt/protective-entry-wrong'],
    label: 'Protect the GPT in sector 0, over the whole medium',
    why: 'Tools that know MBR only leave alone what is covered.',
    change: protective,
  },
  {
    id: 'stale-gpt',
    rules: ['found-gpt/stale-gpt'],
    label: 'Take the GPT of an earlier use away',
    why: 'Two tables on one medium confuse installers and firmware.',
    change: staleGpt,
  },
  {
    id: 'mbr-beside',
    rules: ['found-gpt/hybrid'],
    label: 'Take the entries beside the protective one away',
    why: 'Then the GPT alone says what is there; what reads only an MBR sees one partition of an unknown type.',
    onRequest: true,
    says: saysBeside,
    change: withoutBeside,
  },
];
