/** How an exFAT volume is recognised by its head alone. */
import { content, marked, type Recogniser, times } from '../signatures';
import { volumeIdText } from '../volume-id';

/** What stands at byte 3 of the boot sector (section 3.1.2). */
export const EXFAT_NAME = 'EXFAT   ';

export const EXFAT_SIGNATURE: Recogniser = marked(3, EXFAT_NAME, (head) =>
  content('exFAT', {
    id: volumeIdText(head.u32(100)),
    size: times(head.u64(72), 2 ** Math.min(12, head.slice(108, 1)[0] ?? 0)),
  }),
);
