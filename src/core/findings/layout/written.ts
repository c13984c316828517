/** Findings about what Loess shall write into the files of slots. */
import { fillingOf, madeInto } from '../../layout/contents';
import type { PartitionSlot } from '../../layout/document';
import { type Writable, WRITABLE } from '../../layout/vocabulary';
import { bootFiles } from '../../naming/boot';
import { mountTablePath, textsFor } from '../../naming/written';
import type { Placement } from '../../placement/placement';
import { counted } from '../../quantity/units';
import { leavingOut } from './file-remedies';
import { atSlot, changing, type Occurrence, partitionsOf, type Remedy, rule, type Rule } from './finding';

/** The remedy that leaves a slot as it is filled. */
function notWriting({ id, writes = [] }: PartitionSlot, what: Writable): Remedy {
  const left = writes.filter((one) => one !== what);
  return changing(`Do not write the ${what}`, id, { writes: left.length > 0 ? left : undefined });
}

/** Why nothing is written; undefined where something is. */
function whyNotWritten(slot: PartitionSlot, what: Writable, placement: Placement): string | undefined {
  if (!fillingOf(slot)) return `no files are put into ${slot.name}`;
  if (textsFor(slot, what, placement).length > 0) return undefined;
  if (what === 'mount table')
    return mountTablePath(slot) === undefined
      ? `the table of a system lies in its /etc, and ${slot.name} is ${slot.mount === undefined ? 'no system' : `mounted at ${slot.mount}`}`
      : 'the layout mounts nothing';
  const files = bootFiles({ name: placement.layout.name, placement });
  if (files.length === 0) return 'the layout has no boot entries';
  const places = [...new Set(files.map(({ on }) => on?.placed.slot.name ?? 'a partition of the machine'))];
  return `boot entries of this layout belong on ${places.join(' and ')}`;
}

const asked = (placement: Placement) =>
  partitionsOf(placement).flatMap(({ slot }) =>
    WRITABLE.filter((what) => slot.writes?.includes(what)).map((what) => ({ slot, what })),
  );

const notWritten = rule('written/nothing', 'risk', (placement) =>
  asked(placement).flatMap(({ slot, what }): Occurrence[] => {
    const why = whyNotWritten(slot, what, placement);
    if (why === undefined) return [];
    return [
      {
        place: atSlot(slot.id),
        sentence: `The ${what} is to be written into ${slot.name}, and is not: ${why}.`,
        why: 'What is asked for would be missing in the image.',
        remedies: [notWriting(slot, what)],
      },
    ];
  }),
);

const blocked = rule('written/blocked', 'stop', (placement) =>
  partitionsOf(placement).flatMap(({ slot }): Occurrence[] => {
    const [first] = madeInto(slot, placement.contents)?.blocked ?? [];
    if (!first) return [];
    const { path, by } = first;
    const isHere = by.path.toLowerCase() === path.toLowerCase();
    return [
      {
        place: atSlot(slot.id),
        sentence: `“${path}” cannot be written into ${slot.name}: “${by.path}” of its files is ${by.kind === 'folder' ? 'a folder' : by.kind === 'link' ? 'a link' : 'no folder'}.`,
        why: isHere
          ? 'A folder stays with all that is in it: Loess does not put a file in its place.'
          : 'The file would lie behind it, where nothing can lie, or on another volume.',
        remedies: (slot.writes ?? []).map((what) => notWriting(slot, what)),
        ...(by.kind !== 'folder' && { fileRemedies: leavingOut(slot.id, [by.path]) }),
      },
    ];
  }),
);

const replaced = rule('written/over', 'note', (placement) =>
  partitionsOf(placement).flatMap(({ slot }): Occurrence[] => {
    const paths = madeInto(slot, placement.contents)?.replaced ?? [];
    if (paths.length === 0) return [];
    const others = paths.length > 1 ? ` and ${counted(paths.length - 1, 'other file')}` : '';
    return [
      {
        place: atSlot(slot.id),
        sentence: `“${paths[0]!}”${others} of the files of ${slot.name} ${paths.length > 1 ? 'give' : 'gives'} way to what is written from the layout.`,
        why: 'The files themselves stay as they are stored; the image has what is written.',
        remedies: [],
      },
    ];
  }),
);

export const WRITTEN_RULES: readonly Rule[] = [notWritten, blocked, replaced];
