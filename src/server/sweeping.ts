/** What a server does with contents that nothing names: when it starts, and every day. */
import { sweep } from '../keeping/sweep';
import { emptyTrash } from '../keeping/trash';
import type { Context } from './context';
import { log } from './log';

/** Moves to the trash what is certainly not needed, removes what lay there for thirty days, and says so. Never rejects. */
export async function sweepQuietly(context: Context): Promise<void> {
  try {
    const { number, bytes, doubts } = await sweep(context);
    if (number > 0) log.info(`${number} stored file(s), ${bytes} bytes, that no layout names went to the trash.`);
    if (doubts.length > 0) log.info(`Nothing was swept: ${doubts[0]} (${doubts.length} reason(s) in all.)`);
    for (const { day, files } of await emptyTrash(context.folder, 'over', context.now()))
      log.info(`The trash of ${day}, ${files} file(s), was emptied after thirty days.`);
  } catch (error) {
    // Sweeping can wait: nothing is lost by what stays.
    log.error('Sweeping failed.', { error });
  }
}
