/**
 * The order of logical partitions: each record of the chain is linked and filled so that numbers follow places. Partitions
 * stay where they are; records stay in their sectors, and all of a record but its first two entries stays.
 */
import type { BlockSource } from '../bytes/blocks';
import { fail, ok, type Result } from '../quantity/result';
import { grouped } from '../quantity/units';
import { type FoundPartition, lastOf, type Survey } from '../survey/found';
import { encodeChain, entryOffset, MBR_LENGTH } from '../tables/mbr';
import type { Change, Repair } from './repairs';

const logicalsOf = ({ partitions }: Survey): FoundPartition[] => partitions.filter(({ kind }) => kind === 'logical');

/** A logical partition with the record that it will have. */
type Recorded = readonly [one: FoundPartition, recordAt: number];

const byPlace = (survey: Survey) => [...logicalsOf(survey)].sort((a, b) => a.start - b.start);

/**
 * The logical partitions by their places. The first takes the first sector of the container; whose record stood there gets
 * one ahead of itself, in a free sector of zeros, or the one that the first had. All others keep theirs.
 */
async function recorded(survey: Survey, container: number, source: BlockSource): Promise<Recorded[]> {
  const { sectorSize } = survey;
  const [lowest, ...others] = byPlace(survey);
  if (!lowest || lowest.recordAt === container) return byPlace(survey).map((one) => [one, one.recordAt]);
  const isEmpty = async (sector: number) =>
    (await source.read(sector * sectorSize, sectorSize)).every((byte) => byte === 0);
  const made: Recorded[] = [[lowest, container]];
  for (const one of others) {
    const gap = survey.gaps.find(({ start, sectors }) => start + sectors === one.start);
    const isMoved = one.recordAt === container;
    made.push([one, !isMoved ? one.recordAt : gap && (await isEmpty(gap.start)) ? gap.start : lowest.recordAt]);
  }
  return made;
}

async function change(survey: Survey, source: BlockSource): Promise<Result<Change, string>> {
  const { sectorSize, chain, partitions } = survey;
  const container = partitions.filter(({ kind }) => kind === 'container');
  const other = chain.find(({ kind }) => kind !== 'is out of disk order');
  if (other) return fail(`the chain ${other.kind} as well, in sector ${grouped(other.sector)}`);
  if (container.length !== 1) return fail('there is more than one container, and each has a chain');
  const ordered = await recorded(survey, container[0]!.start, source);
  const wrong = ordered.find(
    ([{ start }, recordAt]) =>
      recordAt >= start || ordered.some(([one]) => one.start <= recordAt && lastOf(one) >= recordAt),
  );
  if (wrong) return fail(`ahead of partition ${wrong[0].number} there is no sector for its record`);
  const records = encodeChain(
    ordered.map(([{ active, type, start, sectors }, recordAt]) => ({
      ...{ active, type: parseInt(type, 16), recordAt, first: start, count: sectors },
    })),
    sectorSize,
  );
  const made: Change[number][] = [];
  for (const { sector, bytes } of records) {
    const there = Uint8Array.from(await source.read(sector * sectorSize, sectorSize));
    there.set(bytes.subarray(entryOffset(0), entryOffset(2)), entryOffset(0));
    there.set(bytes.subarray(entryOffset(4), MBR_LENGTH), entryOffset(4));
    made.push({ what: 'record of a logical partition', at: sector * sectorSize, bytes: there });
  }
  return ok(made);
}

function says(survey: Survey): Promise<readonly string[]> {
  const words = byPlace(survey).flatMap(({ number, id }, i) =>
    number === 5 + i
      ? []
      : [`Partition ${number} (${id}) becomes partition ${5 + i}: mount lines and boot entries that name it break.`],
  );
  return Promise.resolve(words);
}

export const CHAIN_REPAIRS: readonly Repair[] = [
  {
    id: 'chain-order',
    rules: ['found-chain/out-of-disk-order'],
    label: 'Number logical partitions by their places',
    why: 'Some tools expect that order, or make it themselves when they write.',
    onRequest: true,
    says,
    change,
  },
];
