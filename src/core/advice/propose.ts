/**
 * Proposing: from answers to a layout, with a reason for every line. The ambitious plan comes
 * first; where it does not land without a stop, plainer ones follow, down to one partition over
 * everything. What an answer asks for and the layout does not give is named.
 */
import { MIB } from '../quantity/units';
import { settled } from '../layout/edits';
import { LAYOUT_VERSION, TABLE_NAMES, type TableKind } from '../layout/vocabulary';
import { check } from '../findings/layout/check';
import { stopsAmong } from '../findings/layout/finding';
import type { Layout, Machine } from '../layout/document';
import { mediumOf } from '../layout/medium-spec';
import { exactBytes } from '../quantity/size-language';
import { boardProfile } from '../medium/boards';
import { place } from '../placement/place';
import { inBoth } from '../quantity/units';
import { SECTOR_LIMIT } from '../tables/mbr';
import type { Answers, Fresh, LeftOut } from './answers';
import { leftOut } from './left-out';
import { type Plan, planSlots, type PlanSite } from './plan';

/** A line of the proposal: a slot, or the table, with its reason. */
export interface ProposedLine {
  readonly about: { readonly kind: 'slot'; readonly id: string } | { readonly kind: 'table' };
  readonly reason: string;
}

export interface Proposal {
  readonly layout: Layout;
  readonly lines: readonly ProposedLine[];
  readonly leftOut: readonly LeftOut[];
}

type TableChoice = { readonly kind: Layout['table']['kind']; readonly because: string };

/** True where an MBR cannot describe the whole medium. */
function isBeyondMbr({ medium: spec }: Answers): boolean {
  const medium = mediumOf(spec);
  return Math.floor(medium.capacity / medium.logicalSector) > SECTOR_LIMIT;
}

/** Tables that can serve these answers; the one by rule is among them. */
export function possibleTables(answers: Answers): readonly TableKind[] {
  const { boots, board } = answers;
  const fitting = (kinds: readonly TableKind[]) => kinds.filter((kind) => kind === 'gpt' || !isBeyondMbr(answers));
  if (boots === 'board' && board) {
    const tables = fitting(boardProfile(board).tables);
    return tables.length > 0 ? tables : ['gpt'];
  }
  return fitting(boots === 'nothing' ? ['mbr', 'gpt', 'none'] : ['mbr', 'gpt']);
}

/** The table: the one that was wished for where it can be, else by rule. */
function tableFor(answers: Answers): TableChoice {
  const { table } = answers;
  const byRule = tableByRule(answers);
  if (table === undefined || table === byRule.kind || !possibleTables(answers).includes(table)) return byRule;
  return { kind: table, because: `You chose it. By rule it would be ${TABLE_NAMES[byRule.kind]}: ${byRule.because}` };
}

function tableByRule(answers: Answers): TableChoice {
  const { boots, board, readers, medium: spec } = answers;
  const medium = mediumOf(spec);
  const isLarge = isBeyondMbr(answers);
  const isSmallCard = medium.capacity < 256 * MIB && (medium.kind === 'card' || medium.kind === 'stick');
  const isRemovable = medium.kind === 'card' || medium.kind === 'stick';
  if (boots === 'board' && board) {
    const { tables, name } = boardProfile(board);
    const kind = tables.includes('mbr') && !isLarge ? 'mbr' : 'gpt';
    return { kind, because: kind === 'mbr' ? `${name} boots from it.` : `${name} needs a GPT, or the medium does.` };
  }
  if (isLarge)
    return {
      kind: 'gpt',
      because: `An MBR ends at ${inBoth(SECTOR_LIMIT * medium.logicalSector)}; this medium does not.`,
    };
  if (boots === 'nothing' && readers === 'appliances' && isSmallCard)
    return { kind: 'none', because: 'Old instruments and cameras expect small cards without a table.' };
  if (readers === 'appliances')
    return { kind: 'mbr', because: 'Cameras, televisions, printers and old instruments know nothing else.' };
  if (boots === 'uefi') return { kind: 'gpt', because: 'UEFI firmware looks for an ESP in a GPT.' };
  if (boots === 'bios') return { kind: 'mbr', because: 'Every BIOS loader understands it.' };
  if (boots === 'board') return { kind: 'mbr', because: 'Nearly every boot ROM can live with it.' };
  if (isRemovable)
    return { kind: 'mbr', because: 'UEFI and BIOS machines both start from it, and every reader knows it.' };
  return boots === 'nothing'
    ? { kind: 'gpt', because: 'No limits of size or number, and a copy at the end.' }
    : { kind: 'gpt', because: 'It serves UEFI and, with a BIOS boot partition, a BIOS too.' };
}

function bootsOf({ boots, medium }: Answers): Layout['boots'] {
  if (boots === 'both') return ['uefi', 'bios'];
  if (boots === 'unknown') return medium.kind === 'card' || medium.kind === 'stick' ? [] : ['uefi', 'bios'];
  return boots === 'nothing' ? [] : [boots];
}

function machineOf(answers: Answers, boots: Layout['boots'], table: Layout['table']['kind']): Machine | undefined {
  const { use, memory, hibernates, board, biosLimit, existing, loaderFrom } = answers;
  const hasBios = boots.includes('bios') && table !== 'none';
  const isRemovable = answers.medium.kind === 'card' || answers.medium.kind === 'stick';
  const loader = table === 'gpt' ? 'bios boot partition' : isRemovable ? 'active partition' : 'gap';
  const machine: Machine = {
    ...(use !== 'unknown' && { use: use === 'data' ? 'storage' : use }),
    ...(memory !== undefined && { memory }),
    ...(hibernates && { hibernates: true }),
    ...(existing.kind === 'stays' && boots.includes('uefi') && { esp: 'kept' }),
    ...(hasBios && { loader }),
    ...(hasBios && loaderFrom !== undefined && { loaderFrom }),
    ...(hasBios && biosLimit !== undefined && { biosLimit }),
    ...(boots.includes('board') && board && { board: { family: board } }),
  };
  return Object.keys(machine).length > 0 ? machine : undefined;
}

function tableOf(kind: Layout['table']['kind'], { signature, diskId }: Fresh): Layout['table'] {
  if (kind === 'mbr') return { kind, signature };
  return kind === 'gpt' ? { kind, diskId } : { kind };
}

/** The bytes that the proposal may use. */
function siteOf(answers: Answers, table: Layout['table']['kind']): PlanSite {
  const medium = mediumOf(answers.medium);
  const { existing } = answers;
  const whole = { from: 0, until: medium.capacity };
  if (existing.kind !== 'stays') return { ...whole, medium, table };
  const bytes = (text: string) => (text.trim() === '0' ? 0 : exactBytes(text, medium.logicalSector));
  const [from, until] = [bytes(existing.from), Math.min(medium.capacity, bytes(existing.until))];
  return from < until ? { from, until, medium, table } : { ...whole, medium, table };
}

/** From the most that could be wished for to one partition. */
const PLANS: readonly Plan[] = [
  { boot: true, swap: true, extras: true, twins: true },
  { boot: true, swap: true, extras: false, twins: true },
  { boot: true, swap: false, extras: false, twins: true },
  { boot: true, swap: false, extras: false, twins: false },
  { boot: false, swap: false, extras: false, twins: false },
];

function assembled(answers: Answers, fresh: Fresh, name: string, plan: Plan): Proposal {
  const isBare = !plan.boot;
  const choice: TableChoice = isBare
    ? {
        kind: answers.existing.kind === 'stays' || mediumOf(answers.medium).capacity > MIB ? 'mbr' : 'none',
        because: 'Nothing more has room here.',
      }
    : tableFor(answers);
  const table = isBare && isBeyondMbr(answers) ? { ...choice, kind: 'gpt' as const } : choice;
  const boots = isBare ? [] : bootsOf(answers);
  const machine = machineOf(answers, boots, table.kind);
  const bare: Layout = {
    format: 'loess-layout',
    version: LAYOUT_VERSION,
    name,
    date: fresh.date,
    medium: answers.medium,
    boots,
    ...(machine && { machine: isBare ? { ...(machine.memory && { memory: machine.memory }) } : machine }),
    table: tableOf(table.kind, fresh),
    slots: [],
  };
  const lines = planSlots(answers, siteOf(answers, table.kind), plan, bare);
  const layout = settled({ ...bare, slots: lines.map((one) => one.slot) });
  return {
    layout,
    lines: [
      { about: { kind: 'table' }, reason: table.because },
      ...lines.map(({ slot, reason }) => ({ about: { kind: 'slot', id: slot.id } as const, reason })),
    ],
    leftOut: leftOut(answers, layout),
  };
}

/** Whether a layout holds something, fits, and has no stop. */
function lands(layout: Layout): boolean {
  if (layout.slots.length === 0) return false;
  const placement = place(layout);
  return placement.misfits.length === 0 && stopsAmong(check(placement)).length === 0;
}

/** The layout for these answers. It has no stop, and at least one slot. */
export function propose(answers: Answers, fresh: Fresh, name = 'New layout'): Proposal {
  let last: Proposal | undefined;
  for (const plan of PLANS) {
    last = assembled(answers, fresh, name, plan);
    if (lands(last.layout)) return last;
  }
  return last!;
}
