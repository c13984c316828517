/** Parts that descriptions of a document are made of: texts of one line, sizes, sums, ids, supplied files. */
import * as z from 'zod';
import { parseExact, parseSize, SIZE_TEXT_LIMIT } from '../quantity/size-language';

/** Text without control characters and line ends. */
export const ONE_LINE = /^[^\u0000-\u001f\u007f-\u009f\u2028\u2029]*$/u;
export const LINE_ERROR = 'must be one line without control characters';

/** One line of visible text, 1 to `most` characters. */
export const line = (most: number) => z.string().min(1).max(most).regex(ONE_LINE, LINE_ERROR);

/** A size text; `format` decides which part of the size language is allowed. */
export const sizeText = (format: 'size' | 'exact-size') => {
  const parse = format === 'size' ? parseSize : parseExact;
  return (
    z
      .string()
      .min(1)
      .max(SIZE_TEXT_LIMIT)
      // One line without blanks around it, so that it can stand in a slot line.
      .overwrite((text) => text.replace(/[\t-\r\u2028\u2029]+/g, ' ').trim())
      .superRefine((text, context) => {
        const read = parse(text);
        if (!read.ok)
          context.addIssue({ code: 'custom', message: `${read.error.message} (character ${read.error.at + 1})` });
      })
      .meta({ format: `loess-${format}` })
  );
};

const GUID_TEXT = '[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}';

/** A GUID in either case, in braces or without; it is kept in lower case without. */
export const anyGuid = (message: string) =>
  z
    .string()
    .regex(new RegExp(`^(\\{${GUID_TEXT}\\}|${GUID_TEXT})$`), message)
    .overwrite((text) => text.toLowerCase().replace(/^\{|\}$/g, ''));
export const guid = anyGuid('must be a GUID');

const sha256 = z
  .string()
  .regex(/^[0-9a-fA-F]{64}$/, 'must be a SHA-256, 64 hexadecimal digits')
  .overwrite((text) => text.toLowerCase());

/** Where something lies beside the document: a path relative to its folder, with `/` between names. */
const besideDocument = line(1024);

/** The sum and the size of something that the document only names by its path, as long as nobody looked. */
export const NOT_SUMMED = '';
export const NOT_SIZED = -1;

/**
 * A file that a person supplied, known by its content; the name is for people. Beside the document it
 * may be named by its path alone: then sum, name and size are filled in by whoever reads it.
 */
export const stored = z.strictObject({
  sha256: sha256.default(NOT_SUMMED),
  name: line(255).default(NOT_SUMMED),
  size: z.int().min(0).default(NOT_SIZED),
  path: besideDocument.optional(),
});
export type Stored = z.infer<typeof stored>;

/** A part of a supplied file: from a byte on, and so many of them; without figures the whole. */
export const storedPart = stored.extend({ from: z.int().min(0).optional(), take: z.int().min(1).optional() });
export type StoredPart = z.infer<typeof storedPart>;

export const volumeId = z
  .string()
  .regex(/^[0-9a-fA-F]{4}-[0-9a-fA-F]{4}$/, 'must be eight hexadecimal digits, as in 3A1F-77C0')
  .overwrite((text) => text.toUpperCase());

/** A label as it was typed, at most 64 characters; each kind of content says what it can keep of it. */
export const label = z.string().max(64).regex(ONE_LINE, LINE_ERROR).optional();

/**
 * Files of a volume: the SHA-256 of the text of their tree, where they come from beside the document (a
 * folder, an archive, or one file), and whose times they have.
 */
export const files = {
  files: sha256.optional(),
  filesFrom: besideDocument.optional(),
  times: z.literal('of the files').optional(),
};

/** How its system left a volume: with something unwritten, or with the memory of a machine that sleeps. */
export const LEFT_STATES = ['not cleanly unmounted', 'left asleep'] as const;
export type LeftState = (typeof LEFT_STATES)[number];
