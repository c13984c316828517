/** Where the journal of an ext volume lies: with what resizing needs, it has its blocks ahead of all files. */
import { FreeBlocks, type MapForm, NOTHING, place, type Placed } from './free-blocks';
import { flexGroups, type GroupForm, type Run } from './groups';
import { mapBlocksOf } from './mapping';

export interface JournalForm extends GroupForm, MapForm {
  /** Blocks of the journal; 0 without one. */
  readonly journalBlocks: number;
}

/** Block that leads to the spare descriptors, and the journal. */
export interface PlacedJournal {
  readonly resize: number | undefined;
  readonly journal: Placed;
}

/** Takes the first blocks of a volume; undefined where there are not enough. */
export function placeJournal(form: JournalForm, free: FreeBlocks): PlacedJournal | undefined {
  const resize = form.spareDescriptorBlocks > 0 ? free.take(1)?.[0]?.start : undefined;
  if (form.journalBlocks === 0) return { resize, journal: NOTHING };
  const journal = place(form, free, [{ logical: 0, count: form.journalBlocks }]);
  return journal && { resize, journal };
}

/** Lots of groups in which the longest free run of a volume lies: one of them has no copy of the superblock. */
const SEEN_LOTS = 3;

/**
 * Blocks of the map of the journal; 0 without one. Where it does not lie in one piece, an extent tree has
 * more entries than its length tells: so it is placed, in no more of the volume than it can reach.
 */
export function journalMapOf(form: JournalForm): number {
  const { journalBlocks, features } = form;
  if (journalBlocks === 0) return 0;
  const least = mapBlocksOf(features, form.block, [{ logical: 0, count: journalBlocks }]);
  if (!features.has('extents')) return least;
  const taken: Run[] = [];
  let room = 0;
  let end = 0;
  let lots = 0;
  // As many blocks again serve its map, whatever it is.
  const enough = 2 * journalBlocks;
  for (const lot of flexGroups(form)) {
    taken.push(...lot.taken);
    room += lot.end - end - lot.taken.reduce((sum, run) => sum + run.end - run.start, 0);
    ({ end } = lot);
    lots += 1;
    if (lots >= SEEN_LOTS && room > enough) break;
  }
  const placed = placeJournal(form, new FreeBlocks(taken, end));
  return placed?.journal.map.length ?? least;
}
