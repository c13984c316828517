/** Bodies of requests, as classes that class-validator checks. */
import 'reflect-metadata';
import { FILE_ATTRIBUTES, type FileAttribute, PATH_LIMIT, SHA256 } from '@/core/filesystems/tree';
import { COPY_LIMIT } from '@/core/layout/series';
import {
  IsIn,
  IsInt,
  IsNotEmptyObject,
  IsObject,
  IsOptional,
  IsString,
  Length,
  Matches,
  Max,
  MaxLength,
  Min,
} from 'class-validator';

const ID = /^[a-z0-9-]{1,64}$/;

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
  @IsOptional()
  @IsInt()
  @Min(0)
  @Max(COPY_LIMIT)
  copy?: number;
}

/** A change of a tree of files. */
export class ChangeTreeBody {
  @IsOptional()
  @Matches(SHA256)
  into?: string;

  @IsIn(['remove', 'rename', 'move', 'folder', 'attributes'])
  do!: 'remove' | 'rename' | 'move' | 'folder' | 'attributes';

  @IsString()
  @Length(1, PATH_LIMIT)
  path!: string;

  @IsOptional()
  @IsString()
  @Length(1, PATH_LIMIT)
  to?: string;

  @IsOptional()
  @IsString()
  @Length(1, PATH_LIMIT)
  before?: string;

  @IsOptional()
  @IsIn(FILE_ATTRIBUTES, { each: true })
  attributes?: FileAttribute[];
}

/** A folder or file in a volume of an image. */
export class VolumeQuery {
  @IsString()
  @Length(6, 250)
  of!: string;

  @IsString()
  @Length(1, 64)
  partition!: string;

  @IsString()
  @MaxLength(PATH_LIMIT)
  path!: string;
}

/** Files that are to be taken from a volume of an image. */
export class TakeFromVolumeBody extends VolumeQuery {
  @IsOptional()
  @Matches(SHA256)
  into?: string;

  @IsString()
  @MaxLength(PATH_LIMIT)
  under!: string;
}

/** Which image to survey; without a sector size it is found out. */
export class SurveyQuery {
  @IsString()
  @Length(6, 250)
  of!: string;

  @IsOptional()
  @IsIn([512, 4096])
  sectorSize?: 512 | 4096;
}

/** A sector of an image. */
export class SectorQuery extends SurveyQuery {
  @IsInt()
  @Min(0)
  @Max(Number.MAX_SAFE_INTEGER)
  sector!: number;
}
