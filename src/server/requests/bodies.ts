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
  ValidateIf,
  IsBoolean,
} from 'class-validator';
import {
  FILE_ATTRIBUTES,
  type FileAttribute,
  PATH_LIMIT,
  SHA256,
  MODE_LIMIT,
  OWNER_LIMIT,
} from '@/core/filesystems/tree';
import { COPY_LIMIT } from '@/core/layout/vocabulary';
import { IfGiven } from './check';
import { ID } from './paths';
import { PartitionQuery, ProposalQuery, SurveyQuery, VolumeQuery } from './queries';

/** The id that a browser gave a step of work, so that it is not taken twice. */
function IsStep() {
  return (target: object, name: string) => {
    IfGiven()(target, name);
    Matches(/^[0-9a-f-]{36}$/)(target, name);
  };
}

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

  @IsStep()
  step?: string;
}

/** One step back or forward from revision `base`. */
export class MoveBody {
  @IsInt()
  @Min(1)
  base!: number;

  @IsIn(['undo', 'redo'])
  direction!: 'undo' | 'redo';

  @IsStep()
  step?: string;
}

/** A name for a revision; an empty one takes it away. */
export class NameRevisionBody {
  @IsString()
  @MaxLength(60)
  name!: string;
}

/** Which image is to be kept in a new layout; without a sector size it is found out. */
export class KeepBody extends SurveyQuery {
  // A body says numbers as numbers.
  static override readonly numbers: readonly string[] = [];
}

/** Which volume is to be checked. */
export class VolumeBody extends PartitionQuery {}

/** An ext volume that is laid anew: in what size, and how. */
export class RepackBody extends PartitionQuery {
  @IsString()
  @Length(1, 60)
  size!: string;

  @IsBoolean()
  keepsNumbers!: boolean;

  @IsBoolean()
  withoutFaulty!: boolean;
}

/** An order for an image that is mended, cut or cleared, with the mark of the plan that was seen. */
export class StartProposalBody extends ProposalQuery {
  @Matches(SHA256)
  mark!: string;
}

/** A revision of a layout. */
class RevisionBody {
  @IsString()
  @Matches(ID)
  layoutId!: string;

  @IsInt()
  @Min(1)
  revision!: number;
}

/** An order for a changed image: the revision, the image, and the mark of the plan that was seen. */
export class StartChangeBody extends RevisionBody {
  @IsString()
  @Length(6, 250)
  of!: string;

  @Matches(SHA256)
  mark!: string;
}

/** An order for a build of one revision. */
export class StartBuildBody extends RevisionBody {
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

/** Gives several files or folders other names; leaves them out where no names are said. */
class MendBody {
  @IfGiven()
  @Matches(SHA256)
  into?: string;

  @Equals('mend')
  do!: 'mend';

  @Length(1, PATH_LIMIT, { each: true })
  @IsString({ each: true })
  @IsArray()
  paths!: string[];

  @IfGiven()
  @Length(1, PATH_LIMIT, { each: true })
  @IsString({ each: true })
  @IsArray()
  names?: string[];
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

/** Gives an entry, or a folder and all below it, another owner, group or mode. */
class OwnBody extends TreeChangeBody {
  @Equals('own')
  do!: 'own';

  @IsBoolean()
  below!: boolean;

  @IfGiven()
  @IsInt()
  @Min(0)
  @Max(OWNER_LIMIT)
  user?: number;

  @IfGiven()
  @IsInt()
  @Min(0)
  @Max(OWNER_LIMIT)
  group?: number;

  @IfGiven()
  @IsInt()
  @Min(0)
  @Max(MODE_LIMIT)
  mode?: number;
}

/** Puts in everything of another tree. */
class MergeBody {
  @IfGiven()
  @Matches(SHA256)
  into?: string;

  @Equals('merge')
  do!: 'merge';

  @Matches(SHA256)
  from!: string;
}

/** Every kind of change of a tree, by its word. */
export const TREE_CHANGES = {
  remove: RemoveBody,
  rename: RenameBody,
  mend: MendBody,
  move: MoveInTreeBody,
  folder: FolderBody,
  attributes: AttributesBody,
  own: OwnBody,
  merge: MergeBody,
};

/** Files that are to be taken from a volume of an image. */
export class TakeFromVolumeBody extends VolumeQuery {
  @IfGiven()
  @Matches(SHA256)
  into?: string;

  @IsString()
  @MaxLength(PATH_LIMIT)
  under!: string;

  /** Whether owners, modes, links, devices and attributes are kept. */
  @IfGiven()
  @IsBoolean()
  keepsAll?: boolean;
}

/** An order about the data folder that needs no more than its name. */
class FolderOrderBody {
  @IsIn(['check', 'stop the check', 'sweep', 'empty the trash'])
  do!: 'check' | 'stop the check' | 'sweep' | 'empty the trash';
}

class BringBackBody {
  @Equals('bring back')
  do!: 'bring back';

  @Matches(/^\d{4}-\d{2}-\d{2}$/)
  day!: string;
}

class RemoveBuildsBody {
  @Equals('remove builds')
  do!: 'remove builds';

  @IsIn(['without image', 'all'])
  which!: 'without image' | 'all';
}

/** A number of bytes, or null for no limit. */
function IsLimit() {
  return (target: object, name: string) => {
    ValidateIf((_, value) => value !== null)(target, name);
    IsInt()(target, name);
    Min(1)(target, name);
    Max(Number.MAX_SAFE_INTEGER)(target, name);
  };
}

class LimitBody {
  @Equals('limit')
  do!: 'limit';

  @IsLimit()
  contents!: number | null;

  @IsLimit()
  builds!: number | null;
}

/** Orders about the data folder, by what they say is to be done. */
export const FOLDER_ORDERS = {
  check: FolderOrderBody,
  'stop the check': FolderOrderBody,
  sweep: FolderOrderBody,
  'empty the trash': FolderOrderBody,
  'bring back': BringBackBody,
  'remove builds': RemoveBuildsBody,
  limit: LimitBody,
};
