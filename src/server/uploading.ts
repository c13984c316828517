/** Uploads of contents as requests see them: what cannot be taken is refused with a status. */
import type { SupplyReason } from '../files/errors';
import { SupplyError } from '../files/errors';
import { type Upload, withUpload } from '../files/uploaded';
import type { Context } from './context';
import { markContents } from '../keeping/sweep';
import { roomForContents } from '../keeping/limits';
import { Refusal } from './refusal';

const STATUS: Readonly<Record<SupplyReason, number>> = {
  'broken off': 400,
  'too large': 413,
  'unknown kind': 415,
  unusable: 422,
};

/** Takes an upload in with `work`, whole or not at all. */
export async function uploading<T>(context: Context, work: (upload: Upload) => Promise<T>): Promise<T> {
  try {
    const result = await withUpload(context.folder, work, await roomForContents(context));
    await markContents(context);
    return result;
  } catch (error) {
    if (!(error instanceof SupplyError)) throw error;
    throw new Refusal(STATUS[error.reason], error.code, error.message, 'body');
  }
}
