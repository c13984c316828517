/** Bodies of requests. */
import 'reflect-metadata';
import {
  Equals,
  IsArray,
  IsIn,
  IsInt,
  IsNotEmptyObject,
  IsObject,
  IsString,
  Length,
  Matches,
  Max,
  MaxLength,
  Min,
} from 'class-validator';
import { FILE_ATTRIBUTES, type FileAttribute, PATH_LIMIT, SHA256 } from '@/core/filesystems/tree';
import { COPY_LIMIT } from '@/core/layout/series';
import { IfGiven } from './check';
import { ID } from './paths';
import { VolumeQuery } from './queries';

/** A new layout: the document as JSON value. */
export class CreateLayoutBody {
  @IsObject()
  @IsNotEmptyObject()
  document!: object;

  @IsString()
  @Length(1, 200)
  note!: string;
}

/** A finished change, made on revision `base`. */
export class SaveRevisionBody {
  @IsInt()
  @Min(1)
  base!: number;

  @IsObject()
  document!: object;

  @IsString()
  @Length(1, 200)
  note!: string;
}

/** One step back or forward from revision `base`. */
export class MoveBody {
  @IsInt()
  @Min(1)
  base!: number;

  @IsIn(['undo', 'redo'])
  direction!: 'undo' | 'redo';
}

/** A name for a revision; an empty one takes it away. */
export class NameRevisionBody {
  @IsString()
  @MaxLength(60)
  name!: string;
}

/** An order for a build of one revision. */
export class StartBuildBody {
  @IsString()
  @Matches(ID)
  layoutId!: string;

  @IsInt()
  @Min(1)
  revision!: number;

  /** Which copy of a series; 0, or nothing, for the layout as it is. */
  @IfGiven()
  @IsInt()
  @Min(0)
  @Max(COPY_LIMIT)
  copy?: number;
}

/** What every change of a tree of files says: which tree, none for an empty one, and what in it. */
class TreeChangeBody {
  @IfGiven()
  @Matches(SHA256)
  into?: string;

  @IsString()
  @Length(1, PATH_LIMIT)
  path!: string;
}

/** Takes a file, or a folder with all that is in it, out. */
class RemoveBody extends TreeChangeBody {
  @Equals('remove')
  do!: 'remove';
}

/** Gives a file or folder another path. */
class RenameBody extends TreeChangeBody {
  @Equals('rename')
  do!: 'rename';

  @IsString()
  @Length(1, PATH_LIMIT)
  to!: string;
}

/** Puts a file or folder ahead of another one in their folder, or at its end. */
class MoveInTreeBody extends TreeChangeBody {
  @Equals('move')
  do!: 'move';

  @IfGiven()
  @IsString()
  @Length(1, PATH_LIMIT)
  before?: string;
}

/** Makes an empty folder. */
class FolderBody extends TreeChangeBody {
  @Equals('folder')
  do!: 'folder';
}

/** Sets the attributes of a file: these, and no others. */
class AttributesBody extends TreeChangeBody {
  @Equals('attributes')
  do!: 'attributes';

  @IsIn(FILE_ATTRIBUTES, { each: true })
  @IsArray()
  attributes!: FileAttribute[];
}

/** Every kind of change of a tree, by its word. */
export const TREE_CHANGES = {
  remove: RemoveBody,
  rename: RenameBody,
  move: MoveInTreeBody,
  folder: FolderBody,
  attributes: AttributesBody,
};

/** Files that are to be taken from a volume of an image. */
export class TakeFromVolumeBody extends VolumeQuery {
  @IfGiven()
  @Matches(SHA256)
  into?: string;

  @IsString()
  @MaxLength(PATH_LIMIT)
  under!: string;
}
