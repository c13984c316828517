/** The slots of a proposal, in the order of the medium, each with its reason. */
import { exactText, GIB, inBinary, inBoth, MIB } from '../quantity/units';
import type { ContentOf } from '../filesystems/shapes';
import { BIOS_LIMITS } from '../layout/vocabulary';
import type { FreeSlot, Layout, PartitionSlot, Slot } from '../layout/document';
import { derivedVolumeId, freshIdFor } from '../layout/edits';
import { exactBytes } from '../quantity/size-language';
import { swapAdvice } from '../layout/swap';
import { boardProfile } from '../medium/boards';
import { isPlainFlash, type Medium } from '../medium/medium';
import type { Answers } from './answers';

/** What a plan includes. */
export interface Plan {
  readonly boot: boolean;
  readonly swap: boolean;
  /** Home, data and shared partitions beside the system. */
  readonly extras: boolean;
  /** Two systems of equal size on a device. */
  readonly twins: boolean;
}

/** Where slots may go, in bytes of the medium. */
export interface PlanSite {
  readonly from: number;
  readonly until: number;
  readonly medium: Medium;
  readonly table: Layout['table']['kind'];
}

export interface PlannedSlot {
  readonly slot: Slot;
  readonly reason: string;
}

/** A partition of the proposal. */
type More = Partial<Omit<PartitionSlot, 'content'>> & {
  readonly fat?: Omit<ContentOf<'fat'>, 'kind' | 'volumeId'>;
  readonly ext?: Omit<ContentOf<'ext'>, 'kind' | 'version' | 'uuid'>;
};

/** Collects slots for one layout. */
class Builder {
  readonly lines: PlannedSlot[] = [];
  readonly space: number;
  readonly isFlash: boolean;

  constructor(
    readonly answers: Answers,
    readonly site: PlanSite,
    readonly plan: Plan,
    private readonly layout: Layout,
  ) {
    this.space = site.until - site.from;
    this.isFlash = isPlainFlash(site.medium.kind) || site.medium.kind === 'stick';
  }

  get boots(): Layout['boots'] {
    return this.layout.boots;
  }

  /** Whether nobody formats anything on it later: what a board or a device starts from is written whole. */
  get isComplete(): boolean {
    const { boots, use } = this.answers;
    const { kind } = this.site.medium;
    return (boots === 'board' || use === 'device') && (isPlainFlash(kind) || kind === 'image');
  }

  /** An ext4 that is made here, where nobody else would make one. */
  made(label: string, more: Partial<ContentOf<'ext'>> = {}): Pick<More, 'ext'> {
    return this.isComplete ? { ext: { label, ...more } } : {};
  }

  partition(id: string, name: string, size: string, reason: string, { fat, ext, ...more }: More = {}): void {
    const slot: PartitionSlot = {
      id,
      kind: 'partition',
      name,
      role: 'data',
      size,
      ...more,
      ...(fat && { content: { kind: 'fat', ...fat, volumeId: derivedVolumeId(this.layout, id) } }),
      ...(ext && { content: { kind: 'ext', version: 'ext4', ...ext, uuid: freshIdFor(this.layout, id)('ext') } }),
    };
    const complete = ext ? ' Its ext4 is made here: nobody formats it later.' : '';
    this.lines.push({ slot, reason: reason + complete });
  }

  put(slot: Slot, reason: string): void {
    this.lines.push({ slot, reason });
  }
}

function espSize({ space, site }: Builder): number {
  if (site.medium.logicalSector === 4096) return 300 * MIB;
  if (space >= 16 * GIB) return 512 * MIB;
  return space >= 2 * GIB ? 260 * MIB : space >= 512 * MIB ? 100 * MIB : 40 * MIB;
}

function bootSize({ space }: Builder): number {
  if (space >= 8 * GIB) return 512 * MIB;
  return space >= 2 * GIB
    ? 256 * MIB
    : space >= 512 * MIB
      ? 128 * MIB
      : Math.max(8 * MIB, Math.floor(space / 4 / MIB) * MIB);
}

const sizeText = (bytes: number): string => exactText(bytes, 512);

/** Partitions of a stick that serve every firmware and show in every system: one active FAT that comes first. */
function isSharedStick({ site, answers, isFlash }: Builder): boolean {
  return site.table === 'mbr' && isFlash && answers.boots !== 'board';
}

/** Why a BIOS needs a boot partition of its own here; undefined where it needs none. */
function bootNeed(b: Builder): string | undefined {
  const { answers, site } = b;
  const wall = answers.biosLimit === undefined ? undefined : BIOS_LIMITS[answers.biosLimit];
  if (wall !== undefined && wall < site.medium.capacity)
    return `First and small: its BIOS reads nothing behind ${answers.biosLimit}, and boot files must lie ahead of that.`;
  return hasSystem(b) ? undefined : 'Nothing else here would hold what a BIOS starts; many look for its active mark.';
}

/** The mark of the partition that a BIOS starts, where that is the system. */
function markOfSystem(b: Builder): { active?: true } {
  const isMarked = b.boots.includes('bios') && b.site.table === 'mbr' && !isSharedStick(b);
  return isMarked && bootNeed(b) === undefined ? { active: true } : {};
}

function firmware(b: Builder): void {
  const { answers, site, boots } = b;
  const stays = answers.existing.kind === 'stays';
  if (boots.includes('bios') && site.table === 'gpt')
    b.partition('bios-boot', 'BIOS boot', '1 MiB', 'A GPT has no gap: the loader of a BIOS needs a place of its own.', {
      role: 'bios-boot',
    });
  if (boots.includes('uefi') && stays)
    b.partition(
      'boot',
      'Boot',
      sizeText(bootSize(b)),
      'The ESP that is there already is shared; kernels lie here, where the loader finds them.',
      {
        role: 'boot',
        mount: '/boot',
        fat: { variant: 32, label: 'BOOT' },
      },
    );
  else if (boots.includes('uefi') && site.table !== 'none' && !isSharedStick(b))
    b.partition(
      'esp',
      'ESP',
      sizeText(espSize(b)),
      `UEFI firmware starts from an ESP; ${inBinary(espSize(b))} hold loaders and kernels.`,
      {
        role: 'esp',
        fat: { label: 'ESP' },
        mount: '/boot/efi',
      },
    );
  const needed = bootNeed(b);
  if (boots.includes('bios') && site.table === 'mbr' && !isSharedStick(b) && needed !== undefined)
    b.partition('boot', 'Boot', sizeText(bootSize(b)), needed, {
      role: 'boot',
      active: true,
      ...(answers.use !== 'data' && { mount: '/boot' }),
    });
}

function board(b: Builder): void {
  const { answers, site } = b;
  if (!b.boots.includes('board')) return;
  const profile = answers.board && boardProfile(answers.board);
  if (!profile) {
    const length = b.space >= 64 * MIB ? 1016 : 248;
    b.put(
      { id: 'loader', kind: 'raw', name: 'Loader range', at: '8 KiB', length: `${length} KiB` },
      'Most boot ROMs load from somewhere ahead of the first partition; which board it is was not said.',
    );
  }
  const choices = profile?.ranges.filter((range) => range.instead) ?? [];
  // Under a GPT the earliest of several places may be taken by its entries.
  const chosen = site.table === 'gpt' ? choices.at(-1) : choices[0];
  const ranges = (profile?.ranges ?? []).filter((range) => !range.instead || range === chosen);
  ranges.forEach((range, i) =>
    b.put(
      {
        id: `loader-${i + 1}`,
        kind: 'raw',
        name: range.name,
        at: range.at === 0 ? '0' : sizeText(range.at),
        length: sizeText(range.length),
      },
      `${profile!.name} loads from byte ${range.at}: ${profile!.source}.`,
    ),
  );
  profile?.partitions.forEach((one, p) => {
    for (let i = 0; i < one.copies; i++)
      b.partition(
        `stage-${p + 1}-${i + 1}`,
        one.namePrefix ? `${one.namePrefix}${i + 1}` : one.purpose,
        '1 MiB',
        `${profile.name} finds its loader by this ${one.type ? 'type' : 'name'}.`,
        {
          role: 'boot',
          ...(one.type !== undefined && { type: one.type }),
        },
      );
  });
  b.partition(
    'boot',
    'Boot',
    sizeText(bootSize(b)),
    'Kernel, device description and loader files, in a file system that boot ROMs read.',
    {
      role: 'boot',
      mount: '/boot',
      ...(profile?.first === 'fat active' && { active: true }),
      fat: { ...(b.space >= 2 * GIB && { variant: 32 as const }), label: 'BOOT' },
    },
  );
}

/** Bytes of swap worth having, 0 where none is. */
function swapBytes({ answers, isFlash, plan, space, site }: Builder): number {
  const wanted =
    answers.use === 'desktop' || answers.use === 'server' || (answers.use === 'unknown' && answers.boots !== 'nothing');
  if (!plan.swap || isFlash || !wanted) return 0;
  const memory = answers.memory === undefined ? undefined : exactBytes(answers.memory, site.medium.logicalSector);
  const bytes = memory === undefined ? 4 * GIB : swapAdvice(memory, answers.hibernates);
  return bytes * 4 <= space ? bytes : 0;
}

function swap(b: Builder): void {
  const bytes = swapBytes(b);
  if (bytes === 0) return;
  const { memory, hibernates } = b.answers;
  const reason =
    memory === undefined
      ? `The memory was not said; ${inBoth(bytes)} do for most machines.`
      : `For ${memory} of memory${hibernates ? ', which must fit into it for hibernation' : ''}.`;
  b.partition('swap', 'Swap', sizeText(bytes), reason, { role: 'swap' });
}

function shared(b: Builder, size: string, reason: string, more: More = {}): void {
  const limit =
    b.site.medium.logicalSector === 512 && b.space > 1900 * GIB && size.startsWith('rest')
      ? `${size.split(',')[0]}, at most 1900 GiB`
      : size;
  b.partition('shared', 'Shared', limit, reason, { fat: { label: 'SHARED' }, ...more });
}

const SHARE_REASONS = {
  others: 'FAT, because every other system reads and writes it.',
  appliances: 'FAT and first, because cameras, televisions and printers show nothing else.',
} as const;

/** Whether a partition for other readers is wanted, and why. */
function sharing({ answers }: Builder): string | undefined {
  return answers.readers === 'others' || answers.readers === 'appliances' ? SHARE_REASONS[answers.readers] : undefined;
}

function systems(b: Builder): void {
  const { answers, space, plan } = b;
  const { use } = answers;
  if (use === 'device' && plan.twins && space >= 2 * GIB) {
    const bound = exactText(Math.min(8 * GIB, Math.floor(space / 4 / MIB) * MIB), 512);
    b.partition('system-a', 'System A', `rest × 2, at most ${bound}`, 'The system that runs.', {
      role: 'system',
      ...markOfSystem(b),
      ...b.made('system-a'),
    });
    b.partition(
      'system-b',
      'System B',
      'same as System A',
      'The next version is written here while the other runs: equal to the sector.',
      { role: 'system', ...b.made('system-b') },
    );
    return;
  }
  const kept = keptApart(b);
  const isBounded = kept !== undefined && space >= ROOMY;
  b.partition(
    'system',
    'System',
    isBounded ? 'rest, at most 64 GiB' : 'rest',
    isBounded
      ? 'Room for the system and its updates; the rest is for what people keep.'
      : kept
        ? 'Half of the space: what people keep has the other half.'
        : 'The system takes what the others leave.',
    {
      role: 'system',
      ...(use !== 'device' && { mount: '/' }),
      ...markOfSystem(b),
      ...b.made('system'),
    },
  );
  if (!kept) return;
  const size = isBounded ? 'rest × 3' : 'rest';
  const wish = space < ROOMY ? ` You asked for it; with less than ${inBinary(ROOMY)} both will be tight.` : '';
  if (kept === 'home')
    b.partition('home', 'Home', size, `People’s files outlive the next installation.${wish}`, {
      mount: '/home',
      ...b.made('home', NOTHING_RESERVED),
    });
  else
    b.partition('data', 'Data', size, `What the server serves, apart from its system.${wish}`, {
      mount: '/srv',
      ...b.made('data', NOTHING_RESERVED),
    });
}

/** Of a volume for data the administrator needs no share. */
const NOTHING_RESERVED = { reserved: 0 };

/** From this size on what people keep has a partition of its own by rule. */
const ROOMY = 60 * GIB;

/** What is kept apart from the system: by wish, or by rule where there is room. */
function keptApart({ answers, plan, space }: Builder): 'home' | 'data' | undefined {
  const { use, apart } = answers;
  const isApart = plan.extras && (apart ?? space >= ROOMY);
  if (!isApart) return undefined;
  return use === 'desktop' ? 'home' : use === 'server' ? 'data' : undefined;
}

function hasSystem({ answers }: Builder): boolean {
  return answers.use !== 'data' && !(answers.use === 'unknown' && answers.boots === 'nothing');
}

function content(b: Builder): void {
  const { answers, plan, site } = b;
  const share = sharing(b);
  const stick = isSharedStick(b);
  if (!hasSystem(b)) {
    const isFat = share !== undefined || stick || site.table === 'none' || answers.readers === 'unknown';
    const active = stick && b.boots.length > 0 ? { active: true as const } : {};
    if (isFat)
      shared(
        b,
        'rest',
        share ??
          (stick && b.boots.length > 0
            ? 'One FAT that UEFI reads by itself and a BIOS starts by its mark.'
            : 'FAT, because nobody said who reads it, and everything does.'),
        active,
      );
    else b.partition('data', 'Data', 'rest', 'All of it for data.');
    return;
  }
  if (stick && (share !== undefined || b.boots.length > 0))
    shared(
      b,
      b.space >= 8 * GIB
        ? 'rest'
        : `rest, at least ${exactText(Math.max(8 * MIB, Math.floor(b.space / 4 / MIB) * MIB), 512)}`,
      share ?? 'One FAT that UEFI reads by itself and a BIOS starts by its mark, ahead of the system.',
      b.boots.length > 0 ? { active: true } : {},
    );
  swap(b);
  systems(b);
  if (!stick && share !== undefined && plan.extras) shared(b, 'rest', share);
  if (answers.use === 'device' && plan.extras)
    b.partition('log', 'Data', 'rest', 'What the device records; it takes what the systems leave.', {
      ...(site.table === 'gpt' && { attributes: ['grow'] }),
      ...b.made('data', NOTHING_RESERVED),
    });
}

/** Puts the slots into the range that the person named: what lies around it stays as it is. */
function intoRange(b: Builder): PlannedSlot[] {
  const { site, answers, lines } = b;
  if (answers.existing.kind !== 'stays') return lines;
  const { from, until } = answers.existing;
  const stays = (id: string, name: string, size: string): FreeSlot => ({ id, kind: 'free', name, size });
  const last = lines.at(-1);
  const isShare = last?.slot.kind === 'partition' && /^rest( × \d+)?$/.test(last.slot.size);
  const inside: PlannedSlot[] =
    last && isShare && last.slot.kind === 'partition'
      ? [
          ...lines.slice(0, -1),
          {
            slot: { ...last.slot, size: `ending at ${until}` },
            reason: `${last.reason} It ends where the free range ends.`,
          },
        ]
      : [
          ...lines,
          {
            slot: stays('unused', 'Left free', `ending at ${until}`),
            reason: 'What the new slots leave of the free range.',
          },
        ];
  const before: PlannedSlot[] =
    site.from > 0
      ? [
          {
            slot: stays('before', 'Stays as it is', `ending at ${from}`),
            reason: 'You said that something must stay: nothing is planned ahead of the range that you named.',
          },
        ]
      : [];
  const behind: PlannedSlot[] =
    site.until < site.medium.capacity - 2 * MIB
      ? [
          {
            slot: stays('behind', 'Stays as it is, behind', 'rest'),
            reason: 'Nothing is planned behind the range that you named either.',
          },
        ]
      : [];
  // Raw ranges stand where the ROM looks for them, whatever stays.
  const isRaw = ({ slot }: PlannedSlot) => slot.kind === 'raw';
  return [...inside.filter(isRaw), ...before, ...inside.filter((one) => !isRaw(one)), ...behind];
}

/** The slots for these answers, by this plan. */
export function planSlots(answers: Answers, site: PlanSite, plan: Plan, layout: Layout): PlannedSlot[] {
  const b = new Builder(answers, site, plan, layout);
  if (!plan.boot) {
    const isFat = sharing(b) !== undefined;
    if (isFat) shared(b, 'rest', sharing(b)!);
    else b.partition('data', 'Data', 'rest', 'One partition over all that there is: nothing more has room.');
    return intoRange(b);
  }
  board(b);
  firmware(b);
  content(b);
  return intoRange(b);
}
