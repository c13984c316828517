/** Which answers a layout does not serve, found by looking at the layout, and why. */
import type { Layout, PartitionSlot } from '../layout/document';
import { exactBytes } from '../quantity/size-language';
import { boardProfile } from '../medium/boards';
import { TABLE_NAMES } from '../layout/vocabulary';
import type { Answers, LeftOut } from './answers';

const partitionsOf = (layout: Layout): PartitionSlot[] => layout.slots.filter((slot) => slot.kind === 'partition');

function bootsLeft({ boots, existing }: Answers, layout: Layout): LeftOut[] {
  const out = (why: string): LeftOut[] => [{ question: 'boots', why }];
  const parts = partitionsOf(layout);
  if (boots === 'nothing' || boots === 'unknown') return [];
  const wantsUefi = boots === 'uefi' || boots === 'both';
  const wantsBios = boots === 'bios' || boots === 'both';
  if (layout.boots.length === 0) return out('There is no room for what starting needs; the medium holds data only.');
  const hasEsp =
    layout.table.kind === 'gpt'
      ? parts.some((slot) => slot.role === 'esp')
      : parts.some((slot) => slot.content?.kind === 'fat');
  if (wantsUefi && !hasEsp && existing.kind === 'stays')
    return out('The ESP that is on the medium already must be shared: none is planned in the range that you named.');
  if (wantsUefi && !hasEsp) return out('UEFI finds no ESP here.');
  const hasBios =
    layout.table.kind === 'gpt' ? parts.some((slot) => slot.role === 'bios-boot') : parts.some((slot) => slot.active);
  return wantsBios && !hasBios ? out('A BIOS finds nothing to start from here.') : [];
}

function purposeLeft({ use, apart }: Answers, layout: Layout): LeftOut[] {
  const parts = partitionsOf(layout);
  const out = (why: string): LeftOut[] => [{ question: 'use', why }];
  if (use === 'unknown' || use === 'data') return [];
  if (!parts.some((slot) => slot.role === 'system'))
    return out('There is no room for a system; the medium holds data only.');
  if (use === 'desktop' && apart === undefined && !parts.some((slot) => slot.mount === '/home'))
    return out(
      'People’s files lie in the system partition: with less than 60 GiB a home of its own would starve both. You may ask for one.',
    );
  if (use === 'device' && !parts.some((slot) => slot.name === 'System B'))
    return out('There is one system and no second one to update: each wants half a GiB and more.');
  return [];
}

/** A wish for what is kept apart, or for a table, that could not be served. */
function wishesLeft({ use, apart, table, boots }: Answers, layout: Layout): LeftOut[] {
  const isKept = partitionsOf(layout).some(({ mount }) => mount === '/home' || mount === '/srv');
  const left: LeftOut[] = [];
  if (apart === true && (use === 'desktop' || use === 'server') && !isKept)
    left.push({ question: 'apart', why: 'There is no room for a partition beside the system.' });
  if (table !== undefined && table !== layout.table.kind)
    left.push({
      question: 'table',
      why: `${TABLE_NAMES[table]} can not be here: ${layout.boots.length === 0 && boots !== 'nothing' ? 'nothing more than one partition has room' : 'the medium is too large for it, or what boots it needs another'}.`,
    });
  return left;
}

function memoryLeft({ memory, hibernates, medium }: Answers, layout: Layout): LeftOut[] {
  const swap = partitionsOf(layout).find((slot) => slot.role === 'swap');
  const isFlash = medium.kind === 'card' || medium.kind === 'stick' || medium.kind === 'on-board';
  const why = isFlash
    ? 'Swapping wears simple flash out; compressed memory does better.'
    : 'There is no system here that would swap, or no room for it: swap stays under a quarter of the space.';
  const left: LeftOut[] = [];
  if (memory !== undefined && !swap) left.push({ question: 'memory', why });
  if (hibernates && !swap)
    left.push({ question: 'hibernates', why: `Without swap the machine cannot hibernate. ${why}` });
  else if (hibernates && swap && memory === undefined)
    left.push({
      question: 'hibernates',
      why: 'The memory was not said, so nobody can tell whether the swap holds it.',
    });
  return left;
}

function readersLeft({ readers, boots, board }: Answers, layout: Layout): LeftOut[] {
  const parts = partitionsOf(layout);
  const shared = parts.find((slot) => slot.id === 'shared');
  if (readers === 'linux' || readers === 'unknown') return [];
  if (!shared)
    return [{ question: 'readers', why: 'There is no room for a FAT partition that the others would read.' }];
  if (readers === 'others') return [];
  if (layout.table.kind === 'gpt')
    return [
      {
        question: 'readers',
        why: 'Appliances read no GPT, and an MBR cannot describe this medium or serve what boots it.',
      },
    ];
  if (parts[0] !== shared) {
    const first = boots === 'board' && board ? boardProfile(board).name : 'what boots it';
    return [{ question: 'readers', why: `Appliances often show the first partition only, and that is for ${first}.` }];
  }
  return [];
}

function existingLeft({ existing, medium }: Answers, layout: Layout): LeftOut[] {
  if (existing.kind !== 'stays') return [];
  const bytes = (text: string) => (text.trim() === '0' ? 0 : exactBytes(text, medium.logicalSector));
  if (bytes(existing.from) >= bytes(existing.until))
    return [
      {
        question: 'existing',
        why: 'The range that you named ends before it begins, so that nothing could be left alone.',
      },
    ];
  const raw = layout.slots.find(
    (slot) => slot.kind === 'raw' && exactBytes(slot.at, medium.logicalSector) < bytes(existing.from),
  );
  if (raw)
    return [
      {
        question: 'existing',
        why: `${raw.name} must stand where the ROM looks for it, outside of the range that you named.`,
      },
    ];
  return [
    {
      question: 'existing',
      why: 'What stays is not described here: the proposal uses the range that you named and nothing else, and the table that is there must be kept.',
    },
  ];
}

/** Everything that was answered and that the layout does not give. */
export function leftOut(answers: Answers, layout: Layout): LeftOut[] {
  return [
    ...bootsLeft(answers, layout),
    ...purposeLeft(answers, layout),
    ...wishesLeft(answers, layout),
    ...memoryLeft(answers, layout),
    ...readersLeft(answers, layout),
    ...existingLeft(answers, layout),
  ];
}
