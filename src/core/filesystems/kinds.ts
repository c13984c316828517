/** All kinds of content. A new one is a folder, a line here, one in `shapes.ts`, and one in `readers.ts`. */
import { EXFAT, type ExfatMade } from './exfat/kind';
import { EXT, type ExtMade } from './ext/kind';
import { FAT, type FatMade } from './fat/kind';
import { FILE } from './file/kind';
import { IMAGE } from './image/kind';
import type { Kind } from './kind';
import { LEFT } from './left/kind';
import type { Content, ContentKind } from './shapes';
import { SWAP } from './swap/kind';
import { ZEROS } from './zeros/kind';

/** What placing makes of a content. */
export type Made = FatMade | ExfatMade | ExtMade;

export const KINDS = {
  fat: FAT,
  exfat: EXFAT,
  ext: EXT,
  swap: SWAP,
  image: IMAGE,
  file: FILE,
  zeros: ZEROS,
  left: LEFT,
};

/** The kind of this name. */
export function kindNamed(kind: ContentKind): Kind<Content, Made> {
  return KINDS[kind] as unknown as Kind<Content, Made>;
}

/** The kind of a content; a partition of which nothing is said is left to its system. */
export function kindOf<C extends Content>(content: C): Kind<C, Made> {
  return KINDS[content.kind] as unknown as Kind<C, Made>;
}

/** A content that files can go into. */
export type Fillable = WithFiles<Content>;
type WithFiles<C> = C extends unknown ? ('files' extends keyof C ? C : never) : never;

/** True for a content that files can go into. */
export function isFillable(content: Content): content is Fillable {
  return kindOf(content).takesFiles === true;
}

/** Geometries by their kind. */
type Geometries = { [M in Made as M['kind']]: M['geometry'] };

/** The geometry of what was made of a slot, where it is of this kind. */
export function madeAs<K extends Made['kind']>(
  { made }: { readonly made?: Made | undefined },
  kind: K,
): Geometries[K] | undefined {
  return made?.kind === kind ? (made.geometry as Geometries[K]) : undefined;
}
