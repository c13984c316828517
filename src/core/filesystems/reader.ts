/**
 * Reading a kind of content back: what a survey, a comparison and a browser ask. Each folder that has
 * something to read gives one such object; `readers.ts` lists them.
 */
import type { BlockSource } from '../bytes/blocks';
import type { AnyMade, Site } from './kind';
import type { VolumeRoom } from './allocation';
import type { KnownContent } from './signatures';
import type { ImageFacts } from './supplied';
import type { Volume } from './volume';

/** How much may be read of a volume. */
export interface ReadLimits {
  /** Bytes of all allocation tables together; of larger ones both ends are read. */
  readonly tableBytes: number;
  /** Everything is read, however long it is. */
  readonly isFull: boolean;
}

/** A kind of volume that is read in full; `F` is what is found. */
export interface VolumeReader<F extends { readonly kind: string }> {
  readonly kind: F['kind'];
  /** Its name where no more is known. */
  readonly word: string;
  /** True for the first sector of such a volume. */
  isHead(sector: Uint8Array): boolean;
  /** What the volume says of itself that begins `base` bytes into the source and has `available` bytes of room; undefined where there is none. */
  read(source: BlockSource, base: number, available: number, limits: ReadLimits): Promise<F | undefined>;
  /** The volume, to browse; undefined where there is none. */
  open(source: BlockSource, base: number): Promise<Volume | undefined>;
  /** Its name and label, as they stand there. */
  describe(found: F): { readonly name: string; readonly label: string };
  /** The same facts as of a prepared image. */
  facts(found: F): ImageFacts;
}

type Value = string | number | undefined;

/** A fact that is compared: what it is called, what was meant, and what was found. */
export type Fact = readonly [name: string, meant: Value, found: Value];

/** What was meant: a content with what placing made of it. */
export interface Meant<C, M extends AnyMade = never> {
  readonly content: C;
  readonly site: Site;
  readonly made: M | undefined;
  readonly room: VolumeRoom | undefined;
  /** What was recognised in a prepared image. */
  readonly image: ImageFacts | undefined;
}

/** What a comparison finds where no volume was read: what was recognised, and the same as facts of an image. */
export interface FoundInside {
  readonly known: KnownContent | undefined;
  readonly image: ImageFacts | undefined;
}
