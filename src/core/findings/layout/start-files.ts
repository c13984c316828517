/** Files of slots in which ids stand, as findings about them need them. */
import { kindOf } from '../../filesystems/kinds';
import type { Tree } from '../../filesystems/tree';
import { fillingOf, treeOfSlot } from '../../layout/contents';
import type { Writable } from '../../layout/vocabulary';
import { namingFiles, type NamingForm, textOfFile } from '../../naming/naming-files';
import { textsFor } from '../../naming/written';
import type { PlacedPartition, Placement } from '../../placement/placement';
import { type FileRemedy, leavingOut } from './file-remedies';
import { changing, once, partitionsOf, type Remedy } from './finding';

/** A file of a slot in which ids stand; its text is undefined where it is not known, or is none. */
export interface StartFile {
  readonly one: PlacedPartition;
  readonly tree: Tree;
  readonly path: string;
  readonly form: NamingForm;
  readonly text: string | undefined;
  /** Why it is not read, where that is so. */
  readonly unread?: string;
  /** It is written from the layout. */
  readonly isMade: boolean;
  readonly mindsCase: boolean;
}

/** All of them, in the order of slots and trees. */
export const startFiles = once((placement): readonly StartFile[] =>
  partitionsOf(placement).flatMap((one) => {
    const filling = fillingOf(one.slot);
    const tree = filling && treeOfSlot(one.slot, placement.contents);
    if (!tree) return [];
    const mindsCase = kindOf(filling).keepsAll === true;
    return namingFiles(tree).map(({ form, file, unread: before }): StartFile => {
      const text = textOfFile(file, placement.contents);
      const unread = before ?? (text?.includes('\0') ? 'has zero bytes in it and is no text' : undefined);
      return {
        one,
        tree,
        path: file.path,
        form,
        text: unread === undefined ? text : undefined,
        ...(unread !== undefined && { unread }),
        isMade: file.made !== undefined,
        mindsCase,
      };
    });
  }),
);

/** The remedy that has Loess write a file of the layout over this one. */
function writtenInstead({ one: { slot }, path, isMade }: StartFile, what: Writable, placement: Placement): Remedy[] {
  const texts = isMade ? [] : textsFor(slot, what, placement);
  if (!texts.some((text) => text.path.toLowerCase() === path.toLowerCase())) return [];
  const writes = [...new Set([...(slot.writes ?? []), what])];
  return [changing(`Write the ${what} of the layout there`, slot.id, { writes })];
}

/** Remedies of whatever stands in such a file: another in its place, or none. */
export function insteadOf(
  file: StartFile,
  placement: Placement,
): { readonly remedies: Remedy[]; readonly fileRemedies?: FileRemedy[] } {
  const what = file.form === 'mount table' ? 'mount table' : 'boot entries';
  return {
    remedies: writtenInstead(file, what, placement),
    ...(!file.isMade && { fileRemedies: leavingOut(file.one.slot.id, [file.path]) }),
  };
}

/** “PATH of SLOT, line 3, column 9”. */
export function whereIn({ path, one }: StartFile, line: number, column: number): string {
  return `“${path}” of ${one.slot.name}, line ${line}, column ${column}`;
}
