/**
 * The chain of logical partitions: in each record entry 1 is the partition, from this record
 * on, and entry 2 leads to the next record, from the container on. Tools have written chains
 * of every shape, so each step is checked and the length is bounded.
 */
import { decodeMbr, type MbrEntry } from '../tables/mbr';
import { promiseOf, typeCode } from '../tables/types';
import type { ChainTrouble } from './found';
import type { SurveyReader } from './reader';

/** Records that are followed. */
export const CHAIN_LIMIT = 256;

/** A logical partition, with the record that names it. */
export interface FoundLogical {
  readonly recordAt: number;
  readonly entry: MbrEntry;
  /** Sector of the medium. */
  readonly start: number;
}

/** A record of the chain as it was read. */
interface Link {
  readonly logical: MbrEntry | undefined;
  readonly next: MbrEntry | undefined;
  readonly extra: boolean;
}

function isContainer({ type }: MbrEntry): boolean {
  return promiseOf(typeCode(type)) === 'container';
}

async function readLink(reader: SurveyReader, sector: number, sectorSize: number): Promise<Link | undefined> {
  const record = decodeMbr(await reader.upTo(sector * sectorSize, 512));
  if (typeof record === 'string') return undefined;
  // The link may stand in either of the first two entries.
  const used = record.entries.filter(({ index, count }) => index < 2 && count > 0);
  return {
    logical: used.find((entry) => !isContainer(entry)),
    next: used.find(isContainer),
    extra: record.entries.some(({ index }) => index > 1),
  };
}

function isInside(container: MbrEntry, first: number, count: number): boolean {
  return first >= container.first && first + count <= container.first + container.count;
}

/** Follows the chain of a container as far as it can be followed. */
export async function readChain(
  reader: SurveyReader,
  container: MbrEntry,
  sectorSize: number,
): Promise<{ logicals: FoundLogical[]; troubles: ChainTrouble[] }> {
  const logicals: FoundLogical[] = [];
  const troubles: ChainTrouble[] = [];
  const seen = new Set<number>();
  let sector: number | undefined = container.first;
  while (sector !== undefined) {
    const trouble = (kind: ChainTrouble['kind']) => troubles.push({ kind, sector: sector! });
    if (seen.has(sector)) {
      trouble('loops');
      break;
    }
    if (!isInside(container, sector, 1) || (sector + 1) * sectorSize > reader.size) {
      trouble('leaves the container');
      break;
    }
    if (seen.size === CHAIN_LIMIT) {
      trouble('is longer than is followed');
      break;
    }
    seen.add(sector);
    const link: Link | undefined = await readLink(reader, sector, sectorSize);
    if (!link) {
      trouble('has no boot record mark');
      break;
    }
    if (link.extra) trouble('has more than two entries in a record');
    if (!link.logical && link.next && seen.size === 1) trouble('begins with an empty record');
    if (link.logical) {
      const start: number = sector + link.logical.first;
      if (!isInside(container, start, link.logical.count)) trouble('names a partition outside of the container');
      const before = logicals[logicals.length - 1];
      if (before && start < before.start) trouble('is out of disk order');
      logicals.push({ recordAt: sector, entry: link.logical, start });
    }
    sector = link.next && container.first + link.next.first;
  }
  return { logicals, troubles };
}
