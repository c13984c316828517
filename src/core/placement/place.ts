/**
 * Placing: from a layout to sectors.
 *
 * Slots are placed in the order of the document. Raw ranges and pinned slots stand where they
 * say, and a slot that ends at a position ends there: these cut the medium into runs, and the
 * slots of a run share the space between its ends. See docs/placement.md.
 */
import { type Contents, NO_CONTENTS } from '../filesystems/supplied';
import type { Layout, RawSlot } from '../layout/document';
import { type Figures, figuresOf, type FlowSlot, rawFigures } from '../layout/figures';
import { amountInSectors } from '../quantity/size-language';
import { grainFor } from '../medium/grain';
import { isPlainFlash } from '../medium/medium';
import { type GptPlaces, gptPlaces } from '../tables/gpt';
import { type Ask, askOf, type Ground } from './asks';
import { enter } from './entries';
import { placeRun } from './flow';
import type { Misfit, Placed, Placement } from './placement';
import { endReason, rawReasons, startReason } from './reasons';
import { strataOf } from './strata';

/** Places of the parts of a GPT, where the layout has one. */
function gptOf(
  { table }: Layout,
  { array: asked }: Figures,
  sectorSize: 512 | 4096,
  sectors: number,
): GptPlaces | undefined {
  if (table.kind !== 'gpt') return undefined;
  const array = asked === undefined ? undefined : Math.ceil(asked / sectorSize);
  return gptPlaces(sectorSize, sectors, { entries: table.entries, array });
}

/** Sectors that slots may take: what lies between the parts of the table. */
function usableOf({ table }: Layout, gpt: GptPlaces | undefined, sectors: number): Ground['usable'] {
  if (gpt) return { first: gpt.firstUsable, end: Math.max(gpt.firstUsable, gpt.lastUsable + 1) };
  return { first: table.kind === 'none' ? 0 : 1, end: sectors };
}

/** What ends a run. */
type RunLimit = Misfit['against'];

function misfitOf(placed: readonly Placed[], over: number, against: RunLimit, { grain }: Ground): Misfit | undefined {
  if (over <= 0 || placed.length === 0) return undefined;
  const couldGive = placed
    .map(({ slot, rule, sectors }) => {
      const isFixed = rule?.kind === 'exact' || rule?.kind === 'percent' || rule?.kind === 'memory';
      return { id: slot.id, sectors: isFixed ? sectors - grain.sectors : 0 };
    })
    .filter((one) => one.sectors > 0)
    .sort((a, b) => b.sectors - a.sectors);
  return { against, slots: placed.map(({ slot }) => slot.id), shortBy: over, couldGive };
}

function placeRaw(slot: RawSlot, { sectorSize, grain }: Ground): Placed {
  const { at, length } = rawFigures(slot, sectorSize);
  const span = { start: at, end: at + length };
  const start = Math.floor(at / sectorSize);
  return { slot, start, sectors: Math.ceil(span.end / sectorSize) - start, span, ...rawReasons(span, grain.sectors) };
}

/** Walks through the slots and closes a run at every fixed place. */
class Walk {
  readonly placed: Placed[] = [];
  readonly misfits: Misfit[] = [];
  /** A size was needed that only a later run settles. */
  isOpen = false;
  private waiting: Ask[] = [];
  private behind: RawSlot | undefined;
  private from: number;

  constructor(
    private readonly ground: Ground,
    private readonly got: Map<string, number>,
  ) {
    this.from = ground.usable.first;
  }

  run(slots: Layout['slots']): void {
    for (const slot of slots) {
      if (slot.kind === 'raw') this.raw(slot);
      else this.flow(slot);
    }
    this.close({ kind: 'medium' }, this.ground.usable.end);
  }

  private raw(slot: RawSlot): void {
    const raw = placeRaw(slot, this.ground);
    this.close({ kind: 'raw', id: slot.id }, raw.start);
    const over = this.laidOver(raw);
    if (over) this.misfits.push(over);
    this.placed.push(raw);
    this.from = Math.max(this.from, raw.start + raw.sectors);
    this.behind = slot;
  }

  private flow(slot: FlowSlot): void {
    const ask = askOf(slot, this.ground, this.got);
    if (ask.pinned !== undefined) {
      this.close({ kind: 'pinned', id: slot.id }, ask.pinned - ask.lead);
      this.from = ask.pinned;
    }
    this.waiting.push(ask);
    if (ask.rule.kind !== 'ending') return;
    this.close({ kind: 'position', id: slot.id }, amountInSectors(ask.rule.at, this.ground.sectorSize));
    this.behind = undefined;
  }

  /** `until` is the first sector that the run must leave alone. */
  private close(against: RunLimit, until: number): void {
    const { ground, waiting, behind } = this;
    const before = this.placed.at(-1)?.slot;
    const previous = before && before.kind !== 'raw' ? before : undefined;
    const asks = waiting.map((ask) => this.settled(ask));
    const { end: usableEnd } = ground.usable;
    // A position is kept even behind the end of the medium, to be seen there; nothing shares that space.
    const room = against.kind === 'position' ? until : Math.min(until, usableEnd);
    const spots = placeRun(asks, { from: this.from, until: room }, ground.grain.sectors);
    const placed = asks.map((ask, i): Placed => {
      const spot = spots[i]!;
      const { start, sectors, recordAt } = spot;
      const ahead = asks[i - 1]?.slot ?? previous;
      return {
        slot: ask.slot,
        start,
        sectors,
        span: { start: start * ground.sectorSize, end: (start + sectors) * ground.sectorSize },
        rule: ask.rule,
        startReason: startReason(ask, spot, ahead, behind, ground),
        endReason: endReason(ask, spot, ground),
        recordAt,
        entry: undefined,
      };
    });
    for (const { slot, sectors } of placed) this.got.set(slot.id, sectors);
    const end = spots.at(-1) ? spots.at(-1)!.start + spots.at(-1)!.sectors : this.from;
    const limit: RunLimit = until > usableEnd ? { kind: 'medium' } : against;
    const misfit =
      placed.length > 0 || against.kind === 'medium'
        ? misfitOf(placed, end - Math.min(until, usableEnd), limit, ground)
        : this.overlapped(before, against, until);
    if (misfit) this.misfits.push(misfit);
    this.placed.push(...placed);
    this.from = Math.max(this.from, end);
    this.waiting = [];
  }

  /** A fixed place with nothing to lay ahead of it may still lie over what stands fixed there already. */
  private overlapped(before: Placed['slot'] | undefined, against: RunLimit, until: number): Misfit | undefined {
    const isOver = this.from > until && before !== undefined;
    // Raw ranges over each other are told by a rule of their own.
    if (!isOver || (before.kind === 'raw' && against.kind === 'raw')) return undefined;
    return { against, slots: [before.id], shortBy: this.from - until, couldGive: [] };
  }

  /** A raw range named behind another one may stand in a partition further ahead. */
  private laidOver(raw: Placed): Misfit | undefined {
    const { id } = raw.slot;
    if (this.misfits.some(({ against }) => against.kind === 'raw' && against.id === id)) return undefined;
    const under = this.placed.find(
      (one) =>
        one.slot.kind !== 'raw' &&
        (one.recordAt ?? one.start) < raw.start + raw.sectors &&
        one.start + one.sectors > raw.start,
    );
    if (!under) return undefined;
    const shortBy = under.start + under.sectors - raw.start;
    return { against: { kind: 'raw', id }, slots: [under.slot.id], shortBy, couldGive: [] };
  }

  /** A slot that follows the share of another run takes its size, once that is known. */
  private settled(ask: Ask): Ask {
    const { wants, slot } = ask;
    if (typeof wants === 'number' || wants.root === slot.id) return ask;
    if (this.waiting.some((one) => one.slot.id === wants.root)) return ask;
    const known = this.got.get(wants.root);
    this.isOpen ||= known === undefined;
    return { ...ask, wants: known ?? this.ground.grain.sectors };
  }
}

/**
 * Places a validated layout on its medium. Never fails: what does not fit is placed beyond
 * the end and told in `misfits`, so that it can be seen and mended.
 */
export function place(layout: Layout, contents: Contents = NO_CONTENTS): Placement {
  const figures = figuresOf(layout);
  const { medium } = figures;
  const sectorSize = medium.logicalSector;
  const sectors = Math.floor(medium.capacity / sectorSize);
  const grain = grainFor(medium, figures.grain);
  const dataUnit = medium.writeUnit || (grain.rule === 'cylinders' ? grainFor(medium).bytes : grain.bytes);
  const gpt = gptOf(layout, figures, sectorSize, sectors);
  const usable = usableOf(layout, gpt, sectors);
  const ground: Ground = {
    layout,
    sectorSize,
    sectors,
    usable,
    grain,
    unit: dataUnit,
    prefersLba: layout.boots.includes('board') || isPlainFlash(medium.kind),
    figures,
    contents,
  };
  const got = new Map<string, number>();
  let walk = new Walk(ground, got);
  walk.run(layout.slots);
  if (walk.isOpen) {
    walk = new Walk(ground, got);
    walk.run(layout.slots);
  }
  const { placed, containers } = enter(walk.placed, ground);
  return {
    layout,
    figures,
    contents,
    medium,
    sectorSize,
    sectors,
    usable,
    ...(gpt && { gpt }),
    grain,
    dataUnit,
    placed,
    containers,
    strata: strataOf(placed, { table: layout.table.kind, sectors, usable, gpt }, grain.sectors),
    misfits: walk.misfits,
  };
}
