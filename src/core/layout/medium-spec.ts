/** From what a document says about its medium to the medium in figures. */
import { boardProfile, type BoardProfile } from '../medium/boards';
import { KIND_NAMES, type Medium, nominalCapacity, usualFloor } from '../medium/medium';
import { exactBytes } from '../quantity/size-language';
import type { Layout, MediumSpec } from './document';
import { readOnce } from './read-once';
import { CYLINDERS } from './vocabulary';

const readMedium = readOnce((spec: MediumSpec): Medium => {
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
});

/** The medium that a document describes; a nominal size counts with its floor. */
export function mediumOf(spec: MediumSpec): Medium {
  return readMedium(spec, spec.logicalSector);
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

type OwnBoard = Exclude<NonNullable<NonNullable<Layout['machine']>['board']>, { readonly family: unknown }>;

const readOwnBoard = readOnce(({ name, source, ranges, tables, first }: OwnBoard, sectorSize): BoardProfile => {
  const bytes = (text: string) => exactBytes(text, sectorSize);
  return {
    name,
    source: source ?? 'a profile of one’s own',
    ranges: ranges.map((one) => ({
      name: one.name,
      at: bytes(one.at),
      length: bytes(one.length),
      ...(one.instead && { instead: one.instead }),
    })),
    tables,
    first,
    partitions: [],
    customaryFirst: 0,
  };
});

/** The board that starts the medium, where the layout says which. */
export function boardOf({ machine, medium }: Layout): BoardProfile | undefined {
  const board = machine?.board;
  if (!board) return undefined;
  return 'family' in board ? boardProfile(board.family) : readOwnBoard(board, medium.logicalSector);
}
