/** What server and interface tell each other about contents. Types only. */
import type { FileAttribute } from '@/core/filesystems/tree';
import type { WrittenTree } from '@/core/filesystems/tree-text';
import type { VolumeEntry, VolumeFact } from '@/core/filesystems/volume';
import type { ImageFacts } from '@/core/filesystems/supplied';

/** A tree after something was added to it or changed in it. */
export interface TreeView extends WrittenTree {
  /** SHA-256 of its text; null for a tree without entries. */
  readonly sha256: string | null;
  /** What an archive or volume had that was not taken. */
  readonly leftOut: readonly { readonly path: string; readonly why: string; readonly isFact?: true }[];
  /** Files that were there before, and are not any more because of what came in. */
  readonly replaced?: readonly string[];
  /** Texts of its files in which ids stand, by their sums. */
  readonly texts?: Readonly<Record<string, string>>;
}

/** A change of a tree, by path. */
export type TreeChange =
  | { readonly do: 'remove'; readonly path: string }
  | { readonly do: 'rename'; readonly path: string; readonly to: string }
  /** Gives several other names, in their folders; leaves them out where no names are said. */
  | { readonly do: 'mend'; readonly paths: readonly string[]; readonly names?: readonly string[] }
  | { readonly do: 'move'; readonly path: string; readonly before?: string }
  | { readonly do: 'folder'; readonly path: string }
  /** Gives an entry, or a folder and all below it, another owner, group or mode. */
  | {
      readonly do: 'own';
      readonly path: string;
      readonly below: boolean;
      readonly user?: number;
      readonly group?: number;
      readonly mode?: number;
    }
  /** Puts in everything of another tree. */
  | { readonly do: 'merge'; readonly from: string }
  | { readonly do: 'attributes'; readonly path: string; readonly attributes: readonly FileAttribute[] };

/** A supplied file and what it is. `head` is base64. */
export interface BlobView {
  readonly sha256: string;
  readonly name: string;
  readonly size: number;
  readonly head: string;
  readonly image: ImageFacts | null;
}

/** A volume of an image whose files can be taken. */
export interface FileSource {
  /** As in a survey. */
  readonly of: string;
  readonly partition: string;
  readonly text: string;
  /** Bytes of the image. */
  readonly size: number;
}

/** A folder of a volume. */
export interface FolderView {
  readonly of: string;
  readonly name: string;
  readonly partition: string;
  readonly volume: string;
  readonly kind: string;
  readonly path: string;
  readonly entries: readonly VolumeEntry[];
  readonly trouble: string | null;
  /** What is to be said of all that is read of the volume. */
  readonly remark: string | null;
  /** What entries are numbered by. */
  readonly numbers: 'first cluster' | 'inode';
  /** What the volume says of itself. */
  readonly says: readonly VolumeFact[];
  readonly canBeChecked: boolean;
}
