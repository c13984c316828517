/** Findings about a GPT that is not as usual: its array of entries, entries beside it, a mark on the protective one. */
import type { Table } from '../layout/document';
import type { Placement } from '../placement/placement';
import { counted, grouped, inBoth } from '../quantity/units';
import { ENTRY_LENGTH, GPT_ENTRIES, LEAST_ARRAY } from '../tables/gpt';
import { SECTOR_LIMIT } from '../tables/mbr';
import { entriesOf, type Remedy, type Rule } from './finding';

type GptTable = Extract<Table, { kind: 'gpt' }>;

function gptTable({ layout: { table } }: Placement): GptTable | undefined {
  return table.kind === 'gpt' ? table : undefined;
}

/** A remedy that takes something back that is said about the table. */
function without(table: GptTable, key: 'entries' | 'array' | 'hybrid' | 'markProtective', label: string): Remedy {
  return { label, edit: { do: 'change layout', patch: { table: { ...table, [key]: undefined } } } };
}

const smallArray: Rule = (placement) => {
  const table = gptTable(placement);
  if (!table?.entries || table.entries * ENTRY_LENGTH >= LEAST_ARRAY) return [];
  const bytes = table.entries * ENTRY_LENGTH;
  return [
    {
      rule: 'table/array-under-16-kib',
      severity: 'risk',
      place: { kind: 'table' },
      sentence: `The array of ${table.entries} entries takes ${inBoth(bytes)}; UEFI asks that ${inBoth(LEAST_ARRAY)} be reserved for it.`,
      why: 'Kernels and many boot ROMs live with less; firmware and other systems may repair, refuse or not see such a table.',
      remedies: [without(table, 'entries', `Write ${GPT_ENTRIES} entries`)],
    },
  ];
};

const movedArray: Rule = (placement) => {
  const table = gptTable(placement);
  const { gpt, sectorSize } = placement;
  if (!table || !gpt || gpt.array === 2) return [];
  return [
    {
      rule: 'table/array-moved',
      severity: 'note',
      place: { kind: 'table' },
      sentence: `The entries stand at sector ${grouped(gpt.array)} (${inBoth(gpt.array * sectorSize)}) and not in sector 2; partitions may begin at ${grouped(gpt.firstUsable)}.`,
      why: 'The header says where they are, and kernels and firmware follow it; some simple programs look into sector 2 only.',
      remedies: [without(table, 'array', 'Put them into sector 2')],
    },
  ];
};

const hybrid: Rule = (placement) => {
  const table = gptTable(placement);
  if (!table?.hybrid) return [];
  const shown = entriesOf(placement).filter(({ slot }) => table.hybrid!.includes(slot.id));
  return [
    {
      rule: 'table/hybrid',
      severity: 'risk',
      place: { kind: 'table' },
      sentence: `${shown.length} partition${shown.length === 1 ? '' : 's'} (${shown.map(({ slot }) => slot.name).join(', ')}) stand${shown.length === 1 ? 's' : ''} in two tables: the GPT, and an MBR in sector 0.`,
      why: 'The two drift apart as soon as one of them is changed; systems differ in which they believe, and some take neither.',
      remedies: [without(table, 'hybrid', 'Write a GPT alone')],
    },
  ];
};

const hybridTooLarge: Rule = (placement) => {
  const table = gptTable(placement);
  const { sectors, medium } = placement;
  if (!table?.hybrid || sectors <= SECTOR_LIMIT) return [];
  return [
    {
      rule: 'table/hybrid-beyond-2-32-sectors',
      severity: 'stop',
      place: { kind: 'table' },
      sentence: `Entries of an MBR stand beside the GPT of a medium with ${grouped(sectors)} sectors (${inBoth(medium.capacity)}); an MBR describes ${grouped(SECTOR_LIMIT)} at most.`,
      why: 'A system that believes the MBR takes the rest of the medium for unused, or wraps around to its start.',
      remedies: [without(table, 'hybrid', 'Write a GPT alone')],
    },
  ];
};

const markedProtective: Rule = (placement) => {
  const table = gptTable(placement);
  if (!table?.markProtective) return [];
  return [
    {
      rule: 'table/mark-on-protective-entry',
      severity: 'risk',
      place: { kind: 'table' },
      sentence: `The protective entry of sector 0 is marked active (80h), with ${counted(entriesOf(placement).length, 'partition')} in the GPT.`,
      why: 'UEFI asks for 00h there, and some firmware then takes the medium for one with an MBR; a few BIOSes start a GPT medium only so.',
      remedies: [without(table, 'markProtective', 'Write it unmarked')],
    },
  ];
};

export const GPT_SHAPE_RULES: readonly Rule[] = [smallArray, movedArray, hybrid, hybridTooLarge, markedProtective];
