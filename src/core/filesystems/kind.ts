/**
 * A kind of content: everything that the rest asks about what can be in a partition. Each kind is a
 * folder beside this file with one such object; `kinds.ts` lists them, and whoever places, checks,
 * composes or shows goes over that list. What writing and reading need stands in `writer.ts` and `reader.ts` of each folder,
 * with lists of their own, so that a screen loads only what it shows.
 */
import type { Extent } from '../bytes/extents';
import type { Result } from '../quantity/result';
import type { Account } from './account';
import type { VolumeRoom } from './allocation';
import type { Mounted } from './mounted';
import type { NameRules } from './names';
import type { BlobFacts, Contents } from './supplied';
import type { PageSize } from './swap/format';
import type { Tree } from './tree';

/** Where a content goes, and for whom. */
export interface Site {
  /** First sector and sectors, in logical sectors of the medium. */
  readonly start: number;
  readonly sectors: number;
  readonly sectorSize: 512 | 4096;
  /** Bytes on a multiple of which data areas begin, counted from the start of the medium. */
  readonly unit: number;
  /** There is no table: the volume is the whole medium. */
  readonly wholeMedium: boolean;
  /** Firmware starts from it. */
  readonly isEsp: boolean;
  /** A system is on it. */
  readonly isSystem: boolean;
  /** Page of the machine, in bytes. */
  readonly pageSize: PageSize;
  /** When it is made, `YYYY-MM-DDTHH:MM:SS`. */
  readonly date: string;
}

/** What the geometries of all kinds have in common. */
interface AnyGeometry {
  readonly sectorSize: 512 | 4096;
  readonly clusterBytes: number;
  readonly clusters: number;
}

/** The geometry of a volume, or why there is none, under the name of its kind. */
export interface MadeOf<K extends string, G extends AnyGeometry, R> {
  readonly kind: K;
  readonly geometry: Result<G, R>;
}
export type AnyMade = MadeOf<string, AnyGeometry, object>;

/** What was supplied for a content: its files, where they are known, and facts of its file. */
export interface SuppliedFor {
  readonly tree: Tree | undefined;
  readonly facts: BlobFacts | undefined;
}

/** A defined range and what it is; `file` is the path of the file or folder in the volume that it belongs to. */
export interface NamedRange {
  readonly what: string;
  readonly file?: string;
  readonly extent: Extent;
}

/** What decides the type of a partition, of its content. */
export type TypeContent = 12 | 16 | 32 | 'ifs' | 'swap' | 'linux' | 'ufs' | 'lvm' | 'luks' | 'raid' | 'none';

/** The id by which systems find a content. */
export interface Identity<C> {
  of(content: C): string;
  with(content: C, id: string): C;
  /** An id that follows from a text. */
  from(text: string): string;
  /** What the text ends with, so that ids of one slot differ. */
  readonly suffix: string;
}

/** How a content is told in a column of narrow lanes. */
export interface ContentSummary {
  readonly word: string;
  /** What it is called beside: a label, or the name of a file. */
  readonly detail: string | undefined;
}

/** One kind of content `C`; `M` is what placing makes of it. */
export interface Kind<C extends { readonly kind: string }, M extends AnyMade = never> {
  readonly kind: C['kind'];
  /** Its name where no more is known. */
  readonly word: string;
  /** Files can go into it. */
  readonly takesFiles?: true;
  /** It keeps all that Linux knows of files: owners, modes, links, devices, attributes. */
  readonly keepsAll?: true;
  /** Sizes of a cluster, or block, that can be asked for, in bytes; how that is said, and in which field. */
  readonly clusters?: { readonly sizes: readonly number[]; readonly text: string; readonly field: 'cluster' | 'block' };
  readonly identity?: Identity<C>;
  /** A new one with this id, where it needs one; missing for what can only be supplied. */
  fresh?(id: string): C;
  summary(content: C, made: M | undefined): ContentSummary;
  /** `tree`: the files that it shall hold, where they are known. */
  geometry?(content: C, site: Site, tree?: Tree): M;
  /** First sector of the data area, from the start of the volume. */
  dataStart?(made: M): number | undefined;
  /** How a kernel mounts it; missing for what nobody can mount. */
  mounted?(content: C, made: M | undefined, contents: Contents): Mounted;
  /** What of it decides the type of its partition. */
  typed(content: C, made: M | undefined, contents: Contents): TypeContent;
}

/** What composing asks of a kind of content `C`: how it is written. Ranges and accounts are in bytes. */
export interface Writer<C extends { readonly kind: string }, M extends AnyMade = never> {
  /** What its names may hold, where files go into it. */
  readonly names?: NameRules;
  /** The room for a tree; undefined where no volume can be made. */
  room?(content: C, made: M, tree: Tree): VolumeRoom | undefined;
  /** Every range that it defines, ascending. The content must have no stop. */
  ranges(content: C, site: Site, made: M | undefined, supplied: SuppliedFor): readonly NamedRange[];
  /** Where the bytes of its partition go. */
  account(
    content: C,
    site: Site,
    made: M | undefined,
    room: VolumeRoom | undefined,
    facts: BlobFacts | undefined,
  ): Account;
}
