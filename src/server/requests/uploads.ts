/** Uploads: what their query and headers say. */
import 'reflect-metadata';
import { IsIn, IsInt, Matches, Max, MaxLength, Min, registerDecorator } from 'class-validator';
import { PATH_LIMIT, SHA256 } from '@/core/filesystems/tree';
import { isRealTime } from '@/core/filesystems/tree-text';
import { GIB } from '@/core/quantity/units';
import { UPLOAD_LIMIT } from '@/files/uploaded';
import { answered, IfGiven } from './check';

/** What a file may be called. */
const FILE_NAME = /^[^/\p{Cc}]+$/u;
const NAME_BYTES = 255;
const FILE_NAME_REFUSED = answered(
  400,
  'file-name-refused',
  'A file name has 1 to 255 bytes (a letter with an accent has two or three), no slash and no control characters.',
);

/** A name that a file can have here. */
function IsFileName() {
  return (target: object, propertyName: string) =>
    registerDecorator({
      name: 'isFileName',
      target: target.constructor,
      propertyName,
      options: FILE_NAME_REFUSED,
      validator: {
        validate: (value) =>
          typeof value === 'string' && FILE_NAME.test(value) && Buffer.byteLength(value) <= NAME_BYTES,
      },
    });
}

/** A second of the calendar, as in `2026-03-01T12:00:00`. */
function IsSecond() {
  return (target: object, propertyName: string) =>
    registerDecorator({
      name: 'isSecond',
      target: target.constructor,
      propertyName,
      options: { message: `${propertyName} must be a time, as in 2026-03-01T12:00:00` },
      validator: { validate: (value) => typeof value === 'string' && isRealTime(value) },
    });
}

/** Where what comes in goes: a tree, none for an empty one, and a folder of it. */
export class FolderUpload {
  @IfGiven()
  @Matches(SHA256)
  into?: string;

  @MaxLength(PATH_LIMIT)
  under = '';
}

export class FileUpload extends FolderUpload {
  @IsFileName()
  name!: string;

  @IfGiven()
  @IsSecond()
  time?: string;
}

export class ArchiveUpload extends FolderUpload {
  /** Whether what cannot be taken is left out; else the whole archive is refused for it. */
  @IfGiven()
  @IsIn(['yes'])
  leaveOut?: 'yes';

  /** Whether owners, modes, links, devices and attributes are kept. */
  @IfGiven()
  @IsIn(['yes'])
  keepsAll?: 'yes';
}

/** A file of its own: an image, boot code; or a document with what lies beside it. */
export class BlobUpload {
  @IsFileName()
  name!: string;
}

const NO_LENGTH = answered(411, 'length-missing', 'An upload must say how long it is.');

/** Headers of the upload of an image file. */
export class ImageHeaders {
  static readonly numbers = ['content-length'];

  @Min(0, NO_LENGTH)
  @IsInt(NO_LENGTH)
  'content-length'!: number;
}

/** Headers of an upload of contents. */
export class ContentHeaders {
  static readonly numbers = ['content-length'];

  @Max(
    UPLOAD_LIMIT,
    answered(413, 'upload-too-large', `An upload may have ${UPLOAD_LIMIT / GIB} GiB. Send it in parts.`),
  )
  @Min(0, NO_LENGTH)
  @IsInt(NO_LENGTH)
  'content-length'!: number;
}
