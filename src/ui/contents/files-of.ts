import type { TreeView } from '@/contract/contents';
import { fillingOf, withFiles } from '@/core/layout/contents';
import type { Answer, CallError } from '../api';
import type { DesignerState } from '../designer/state/designer';
import { remember } from './known';
import { inOrder } from './order';

const NO_SLOT: CallError = {
  status: 0,
  code: 'slot-gone',
  sentence: 'The slot that this was for is gone, or holds no files any more. Undo brings it back; then send it again.',
};

/**
 * Changes the files of a slot: one change after the other, whatever page it ends on. `work` makes the new
 * list of files from the one that is named now; the slot names that then, which is one step of undo.
 */
export function changeFilesOf(
  now: () => DesignerState,
  slotId: string,
  work: (into: string | undefined) => Promise<Answer<TreeView>>,
): Promise<Answer<TreeView>> {
  return inOrder(`${now().view.id} ${slotId}`, async () => {
    const current = () => now().document.slots.find(({ id }) => id === slotId);
    const before = current();
    const filling = before?.kind === 'partition' ? fillingOf(before) : undefined;
    if (!filling) return { ok: false, error: NO_SLOT };
    const answer = await work(filling.files);
    if (!answer.ok) return answer;
    remember(answer.value);
    const after = current();
    if (after?.kind !== 'partition' || !fillingOf(after)) return { ok: false, error: NO_SLOT };
    now().commit({ do: 'change slot', id: after.id, patch: withFiles(after, answer.value.sha256 ?? undefined) });
    return answer;
  });
}
