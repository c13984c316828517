/**
 * What the texts of a document say, in numbers and units. Each part of a document is read once: parts are
 * never changed, so what was read of one holds as long as it does, and an edit reads only what it made new.
 * Everything here is for a validated document.
 */
import type { BoardProfile } from '../medium/boards';
import type { Medium } from '../medium/medium';
import { exactBytes, parseSize, type SizeRule } from '../quantity/size-language';
import type { FreeSlot, Layout, PartitionSlot, RawSlot } from './document';
import { boardOf, chosenGrain, mediumOf, memoryOf } from './medium-spec';
import { readOnce } from './read-once';
import type { CYLINDERS } from './vocabulary';

/** A slot that takes its place among the others. */
export type FlowSlot = PartitionSlot | FreeSlot;

/** Figures of a slot that takes its place among the others; bytes, where it says them. */
export interface FlowFigures {
  readonly size: SizeRule;
  readonly at: number | undefined;
  readonly grain: number | undefined;
}

/** Figures of a raw range, in bytes. */
export interface RawFigures {
  readonly at: number;
  readonly length: number;
}

/** Figures of a layout; bytes, where it says them. */
export interface Figures {
  readonly medium: Medium;
  readonly grain: number | typeof CYLINDERS | undefined;
  /** Where the array of a GPT is to begin. */
  readonly array: number | undefined;
  readonly memory: number | undefined;
  readonly board: BoardProfile | undefined;
}

function sizeRule({ id, size }: FlowSlot): SizeRule {
  const rule = parseSize(size);
  if (!rule.ok) throw new RangeError(`slot ${id}: ${rule.error.message}`);
  return rule.value;
}

const bytesOf = (text: string | undefined, sectorSize: number) =>
  text === undefined ? undefined : exactBytes(text, sectorSize);

/** Figures of a slot among sectors of so many bytes. */
export const flowFigures = readOnce((slot: FlowSlot, sectorSize): FlowFigures => ({
  size: sizeRule(slot),
  at: bytesOf(slot.at, sectorSize),
  grain: bytesOf(slot.grain, sectorSize),
}));

/** Figures of a raw range among sectors of so many bytes. */
export const rawFigures = readOnce(({ at, length }: RawSlot, sectorSize): RawFigures => ({
  at: exactBytes(at, sectorSize),
  length: exactBytes(length, sectorSize),
}));

/** Figures of a whole layout, its slots aside. */
export function figuresOf(layout: Layout): Figures {
  const { table } = layout;
  return {
    medium: mediumOf(layout.medium),
    grain: chosenGrain(layout),
    array: table.kind === 'gpt' ? bytesOf(table.array, layout.medium.logicalSector) : undefined,
    memory: memoryOf(layout),
    board: boardOf(layout),
  };
}
