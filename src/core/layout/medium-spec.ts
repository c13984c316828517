/** From what a document says about its medium to the medium in figures. */
import { boardProfile, type BoardProfile } from '../medium/boards';
import { KIND_NAMES, type Medium, nominalCapacity, usualFloor } from '../medium/medium';
import { exactBytes } from '../quantity/size-language';
import type { Layout, MediumSpec } from './document';
import { CYLINDERS } from './vocabulary';

/** The medium that a document describes; a nominal size counts with its floor. */
export function mediumOf(spec: MediumSpec): Medium {
  const { kind, logicalSector, physicalSector } = spec;
  const capacity =
    'exact' in spec.capacity
      ? exactBytes(spec.capacity.exact, logicalSector)
      : nominalCapacity(
          kind,
          exactBytes(spec.capacity.nominal, logicalSector),
          spec.capacity.floor ?? usualFloor(kind),
          logicalSector,
        );
  const known = (text: string | undefined) => (text === undefined ? 0 : exactBytes(text, logicalSector));
  return {
    kind,
    capacity,
    logicalSector,
    physicalSector,
    writeUnit: known(spec.writeUnit),
    optimalIo: known(spec.optimalIo),
  };
}

/** `any 8 GB card`, `image file`: the medium as people call it. */
export function mediumText({ kind, capacity }: MediumSpec): string {
  return 'nominal' in capacity ? `any ${capacity.nominal} ${KIND_NAMES[kind]}` : KIND_NAMES[kind];
}

/** The grain that the document asks for, in bytes, or cylinders. */
export function chosenGrain({ grain, medium }: Layout): number | typeof CYLINDERS | undefined {
  return grain === undefined || grain === CYLINDERS ? grain : exactBytes(grain, medium.logicalSector);
}

/** Memory of the machine in bytes, where the layout says it. */
export function memoryOf({ machine, medium }: Layout): number | undefined {
  return machine?.memory === undefined ? undefined : exactBytes(machine.memory, medium.logicalSector);
}

/** The board that starts the medium, where the layout says which. */
export function boardOf({ machine, medium }: Layout): BoardProfile | undefined {
  const board = machine?.board;
  if (!board) return undefined;
  if ('family' in board) return boardProfile(board.family);
  const bytes = (text: string) => exactBytes(text, medium.logicalSector);
  return {
    name: board.name,
    source: board.source ?? 'a profile of one’s own',
    ranges: board.ranges.map(({ name, at, length, instead }) => ({
      name,
      at: bytes(at),
      length: bytes(length),
      ...(instead && { instead }),
    })),
    tables: board.tables,
    first: board.first,
    partitions: [],
    customaryFirst: 0,
  };
}
