/** Paths of requests: what names nothing that there could be is answered like what is not there. */
import 'reflect-metadata';
import { IsInt, Matches, Max, Min } from 'class-validator';
import { SHA256 } from '@/core/filesystems/tree';
import { answered } from './check';

export const ID = /^[a-z0-9-]{1,64}$/;

export class LayoutPath {
  @Matches(ID, answered(404, 'layout-unknown', 'There is no such layout on the shelf.'))
  id!: string;
}

const NO_REVISION = answered(400, 'revision-unknown', 'A revision is a number.');

export class RevisionPath extends LayoutPath {
  static readonly numbers = ['number'];

  @Max(9_999_999_999, NO_REVISION)
  @Min(1, NO_REVISION)
  @IsInt(NO_REVISION)
  number!: number;
}

export class BuildPath {
  @Matches(ID, answered(404, 'build-unknown', 'There is no such build.'))
  id!: string;
}

export class TreePath {
  @Matches(SHA256, answered(404, 'tree-unknown', 'These files are not stored here any more. Add them again.'))
  sha256!: string;
}

export class BlobPath {
  @Matches(SHA256, answered(404, 'content-unknown', 'This file is not stored here any more. Add it again.'))
  sha256!: string;
}
