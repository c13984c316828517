/**
 * Acts on kept partitions: deleting, making smaller or larger, moving. A kept slot never moves by itself; each act says in
 * words what is lost or at risk, and is an edit like every other one.
 */
import { grouped, inBoth, exactText } from '../quantity/units';
import { fail, ok, type Result } from '../quantity/result';
import type { FoundEntry, Layout } from './document';
import type { ContentKind } from '../filesystems/shapes';
import { exactBytes } from '../quantity/size-language';
import { type Edit, freshContent } from './edits';
import { canRepack, foundOf, isKept, keptSlot, lossWords } from './kept';

/** How much an act costs: nothing, perhaps something, or what was there. */
export type Cost = 'none' | 'risk' | 'loss';

export interface Said {
  readonly cost: Cost;
  readonly sentence: string;
}

/** An act that can be done: what it says, and the edit that does it. */
export interface Act extends Said {
  readonly edit: Edit;
}

/** Who can make a file system smaller, by what it is called. */
function whoShrinks(kind: string | undefined): string {
  if (kind === undefined)
    return 'What is inside is not known: only its own system can tell whether it gave up its end.';
  if (kind.startsWith('FAT') || kind === 'exFAT')
    return `Systems do not make ${kind} smaller: copy its files, and make it anew.`;
  if (kind === 'XFS') return 'No system makes an XFS smaller: copy its files, and make it anew.';
  return `Its own system can make the ${kind} smaller; survey the medium again afterwards, and the room behind it is free.`;
}

/** What making a partition smaller means: its file system ends within, or is cut. */
export function saysSmaller({ inside, sectors }: FoundEntry, to: number, sectorSize: number): Said {
  const size = inBoth(to * sectorSize);
  const bytes = inside?.bytes;
  if (bytes !== undefined && bytes <= to * sectorSize)
    return {
      cost: 'none',
      sentence: `By its own header the ${inside!.kind} inside has ${inBoth(bytes)} and ends within ${size}: nothing is cut off.`,
    };
  const off = inBoth(Math.max(0, (bytes ?? sectors * sectorSize) - to * sectorSize));
  const what = bytes === undefined ? `${off} at its end go` : `${off} of the ${inside!.kind} are cut off`;
  return {
    cost: 'loss',
    sentence: `${what}, and with them, most likely, all of ${lossWords({ inside, sectors }, sectorSize)}. ${whoShrinks(inside?.kind)}`,
  };
}

/** What laying an ext anew means. */
export function saysLaidAnew(
  { inside }: FoundEntry,
  to: number,
  sectorSize: number,
  numbering: 'renumbered' | 'kept',
): Said {
  const numbers =
    numbering === 'kept'
      ? 'Inodes keep their numbers.'
      : 'Inodes get new numbers: handles of network clients do not hold.';
  return {
    cost: 'none',
    sentence: `The ${inside?.kind ?? 'ext'} inside is checked, and all of it laid anew in ${inBoth(to * sectorSize)}: every file stays as it is. ${numbers} Loaders that find their files by sector numbers do not find them any more.`,
  };
}

/** What making a partition larger means. */
export function saysLarger({ inside, sectors }: FoundEntry, to: number, sectorSize: number): Said {
  const more = inBoth((to - sectors) * sectorSize);
  return {
    cost: 'none',
    sentence: inside
      ? `The ${inside.kind} inside stays as large as it is; its own system can let it grow into the ${more} behind it.`
      : `What is inside stays as it is; nothing uses the ${more} behind it yet.`,
  };
}

/** What moving a partition means. */
export function saysMoved({ inside, sectors, at }: FoundEntry, to: number, sectorSize: number): Said {
  const kind = inside?.kind;
  const corrected = kind !== undefined && (kind.startsWith('FAT') || kind === 'NTFS' || kind === 'exFAT');
  const header = corrected ? ' The sectors before the volume in its header are corrected.' : '';
  return {
    cost: 'risk',
    sentence: `${inBoth(sectors * sectorSize)} are copied from sector ${grouped(at)} to sector ${grouped(to)}.${header} Loaders that find their files by sector numbers do not find them any more.`,
  };
}

/** What is lost, as the beginning of a sentence. */
function lost(entry: FoundEntry, sectorSize: number): string {
  const words = lossWords(entry, sectorSize);
  return words.includes(', ') ? `${words},` : words;
}

/** What deleting a partition means. */
export function saysGone(entry: FoundEntry, sectorSize: number): Said {
  return { cost: 'loss', sentence: `${lost(entry, sectorSize)} will be lost.` };
}

/** What making the inside of a partition anew means. */
export function saysAnew(entry: FoundEntry, sectorSize: number): Said {
  return { cost: 'loss', sentence: `${lost(entry, sectorSize)} will be lost: it is made anew.` };
}

const text = (sectors: number, sectorSize: number) =>
  sectors === 0 ? '0' : exactText(sectors * sectorSize, sectorSize);

function keptIn(layout: Layout, id: string) {
  const slot = layout.slots.find((one) => one.id === id);
  const entry = slot && foundOf(layout, slot);
  return slot && isKept(slot) && entry ? { slot, entry } : undefined;
}

/** Deletes a kept partition; undefined where the slot keeps none. */
export function deleting(layout: Layout, id: string): Act | undefined {
  const kept = keptIn(layout, id);
  if (!kept) return undefined;
  return {
    ...saysGone(kept.entry, layout.medium.logicalSector),
    edit: { do: 'remove slot', id },
  };
}

/** Gives a kept partition so many sectors from its start on. */
export function resizing(layout: Layout, id: string, to: number): Result<Act, string> {
  const kept = keptIn(layout, id);
  if (!kept) return fail('It keeps nothing.');
  const { entry } = kept;
  if (!Number.isSafeInteger(to) || to < 1) return fail('A partition has a sector at least.');
  const { logicalSector } = layout.medium;
  // An ext that would be cut is laid anew; one that grows is only where that is asked for.
  const isCut = to < entry.sectors && (entry.inside?.bytes ?? Infinity) > to * logicalSector;
  const canBe = canRepack(kept.slot, layout.found);
  const repack = to === entry.sectors ? undefined : (kept.slot.repack ?? (isCut && canBe ? 'renumbered' : undefined));
  const said: Said =
    to === entry.sectors
      ? { cost: 'none', sentence: 'As it was found.' }
      : repack
        ? saysLaidAnew(entry, to, logicalSector, repack)
        : to < entry.sectors
          ? saysSmaller(entry, to, logicalSector)
          : saysLarger(entry, to, logicalSector);
  const size = text(to, logicalSector);
  return ok({ ...said, edit: { do: 'change slot', id, patch: { size, repack } } });
}

/** Lets the ext of a kept partition be laid anew in the size that its slot has, or leaves it as it lies; undefined where there is none. */
export function layingAnew(layout: Layout, id: string, numbering: 'renumbered' | 'kept' | undefined): Act | undefined {
  const kept = keptIn(layout, id);
  if (!kept || !canRepack(kept.slot, layout.found)) return undefined;
  const { logicalSector } = layout.medium;
  const sectors = exactBytes(kept.slot.size, logicalSector) / logicalSector;
  const said: Said = numbering
    ? saysLaidAnew(kept.entry, sectors, logicalSector, numbering)
    : { cost: 'none', sentence: 'What is inside stays where it lies.' };
  return { ...said, edit: { do: 'change slot', id, patch: { repack: numbering } } };
}

/** Lets a kept partition begin at another sector; the slot goes where the order of the medium has it. */
export function moving(layout: Layout, id: string, to: number): Result<Act, string> {
  const kept = keptIn(layout, id);
  if (!kept) return fail('It keeps nothing.');
  const { entry } = kept;
  if (!Number.isSafeInteger(to) || to < 0) return fail('It begins at a sector of the medium.');
  const { logicalSector } = layout.medium;
  const said: Said =
    to === entry.at ? { cost: 'none', sentence: 'Where it was found.' } : saysMoved(entry, to, logicalSector);
  const at = text(to, logicalSector);
  return ok({
    ...said,
    edit: { do: 'several', edits: [{ do: 'change slot', id, patch: { at } }, inOrder(layout, id, to)] },
  });
}

/** Makes the inside of a kept partition anew; its entry, id and number stay. */
export function renewing(layout: Layout, id: string, kind: ContentKind): Act | undefined {
  const kept = keptIn(layout, id);
  const content = kept && freshContent(kind, layout, id);
  if (!content) return undefined;
  return {
    ...saysAnew(kept.entry, layout.medium.logicalSector),
    edit: { do: 'change slot', id, patch: { content, type: undefined, repack: undefined } },
  };
}

/** The edit that lets everything of a kept slot be as it was found. */
export function asFound(layout: Layout, id: string): Edit | undefined {
  const kept = keptIn(layout, id);
  if (!kept) return undefined;
  const { slot, entry } = kept;
  const { mount, mounting } = slot;
  const same = keptSlot(entry, layout.medium.logicalSector, layout.table.kind);
  const back: Edit = { do: 'put slot', slot: { ...same, id, ...(mount && { mount }), ...(mounting && { mounting }) } };
  return { do: 'several', edits: [back, inOrder(layout, id, entry.at)] };
}

/** The edit that puts a slot where it lies among the kept ones. */
function inOrder(layout: Layout, id: string, at: number): Edit {
  const { logicalSector } = layout.medium;
  const others = layout.slots.filter((slot) => slot.id !== id);
  const startOf = (slot: Layout['slots'][number]) =>
    'at' in slot && slot.at !== undefined ? exactBytes(slot.at, logicalSector) / logicalSector : undefined;
  const index = others.findLastIndex((slot) => (startOf(slot) ?? Infinity) < at) + 1;
  return { do: 'move slot', id, index };
}

/** The edit that keeps a partition again that was found: as it was, in its place among the slots. */
export function keepingAgain(layout: Layout, entry: FoundEntry): Edit {
  const { logicalSector } = layout.medium;
  const slot = keptSlot(entry, logicalSector, layout.table.kind);
  const behind = layout.slots.findLastIndex((one) => (foundOf(layout, one)?.at ?? Infinity) < entry.at);
  const taken = layout.slots.some(({ id }) => id === slot.id);
  return {
    do: 'add slot',
    index: behind + 1,
    slot: taken ? { ...slot, id: `kept-${entry.number}-again` } : slot,
  };
}
