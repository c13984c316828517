/** Queries of requests and of pages. */
import { DOES, type Does } from '@/core/change/proposal';
import 'reflect-metadata';
import { IsIn, IsInt, IsString, Length, Matches, Max, MaxLength, Min } from 'class-validator';
import { PATH_LIMIT, SHA256 } from '@/core/filesystems/tree';
import { answered, IfGiven } from './check';

/** Which image to survey, as `file:NAME` or `build:ID`; without a sector size it is found out. */
export class SurveyQuery {
  static readonly numbers: readonly string[] = ['sectorSize'];

  @IsString()
  @Length(6, 250)
  of!: string;

  @IfGiven()
  @IsIn([512, 4096])
  sectorSize?: 512 | 4096;
}

/** A sector of an image. */
export class SectorQuery extends SurveyQuery {
  static override readonly numbers = ['sectorSize', 'sector'];

  @IsInt()
  @Min(0)
  @Max(Number.MAX_SAFE_INTEGER)
  sector!: number;
}

/** A volume of an image. */
export class PartitionQuery {
  @IsString()
  @Length(6, 250)
  of!: string;

  @IsString()
  @Length(1, 64)
  partition!: string;
}

/** A folder or file in a volume of an image. */
export class VolumeQuery extends PartitionQuery {
  @IsString()
  @MaxLength(PATH_LIMIT)
  path!: string;
}

/** A stored file, or a part of it, and the name under which it is to be kept. */
export class StoredQuery {
  static readonly numbers = ['at', 'length'];

  @Matches(SHA256, answered(404, 'content-unknown', 'This file is not stored here any more.'))
  sha256!: string;

  @IfGiven()
  @MaxLength(255)
  name?: string;

  /** First byte of the part, and bytes of it. */
  @IfGiven()
  @IsInt()
  at?: number;

  @IfGiven()
  @IsInt()
  length?: number;
}

/** How an image is to be sent. */
export class ImageQuery {
  @IfGiven()
  @IsIn(['raw', 'gzip'], answered(400, 'form-unknown', 'The field “as” must be raw or gzip.'))
  as?: 'raw' | 'gzip';
}

/** The page of a survey, and the layout that it is compared with. */
export class SurveyPageQuery extends SurveyQuery {
  @IfGiven()
  @IsString()
  @MaxLength(64)
  layout?: string;
}

/** The page of a folder; the topmost one where none is said. */
export class FolderPageQuery extends VolumeQuery {
  override path = '';
}

/** The page of before and after: the image, where it is chosen already. */
export class ChangePageQuery {
  @IfGiven()
  @IsString()
  @Length(6, 250)
  of?: string;
}

/** What would be done to an image by itself. */
export class ProposalQuery extends SurveyQuery {
  @IsIn(DOES)
  does!: Does;

  @IfGiven()
  @IsString()
  @MaxLength(40)
  only?: string;
}

/** Where Start begins: with a kind of medium, a medium of the bench, or an image file. */
export class StartPageQuery {
  @IfGiven()
  @IsString()
  @MaxLength(64)
  start?: string;

  @IfGiven()
  @IsString()
  @MaxLength(250)
  bench?: string;

  @IfGiven()
  @IsString()
  @MaxLength(250)
  file?: string;
}

/** The slot with which a page begins. */
export class SlotPageQuery {
  @IfGiven()
  @IsString()
  @MaxLength(64)
  slot?: string;
}

/** Parts of what is handed over. */
const HAND_OVER_PARTS = ['mounts', 'check', 'steps', 'boot', 'ids', 'sheet'] as const;

/** The part of the hand-over with which its page begins, and the other media of the machine, by commas. */
export class HandOverPageQuery {
  @IfGiven()
  @IsIn(HAND_OVER_PARTS)
  show?: (typeof HAND_OVER_PARTS)[number];

  @IfGiven()
  @IsString()
  @MaxLength(1000)
  with?: string;
}

/** Two revisions of a layout. */
export class ComparePageQuery {
  static readonly numbers = ['a', 'b'];

  @IfGiven()
  @IsInt()
  a?: number;

  @IfGiven()
  @IsInt()
  b?: number;
}

/** Which layouts of the shelf are shown. */
export class ShelfPageQuery {
  static readonly numbers = ['page'];

  @IfGiven()
  @IsString()
  @MaxLength(100)
  find?: string;

  @IfGiven()
  @IsInt()
  @Min(1)
  @Max(1_000_000)
  page?: number;
}
