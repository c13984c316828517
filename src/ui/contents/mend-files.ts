import type { TreeView } from '@/contract/contents';
import type { FileRemedy } from '@/core/findings/layout/file-remedies';
import { type Answer, changeTree } from '../api';
import type { DesignerState } from '../designer/state/designer';
import { changeFilesOf } from './files-of';

/** Carries a remedy out that changes files, one change after the other; says what is refused. */
export async function mendFiles(now: () => DesignerState, { slot, changes }: FileRemedy): Promise<void> {
  const answer = await changeFilesOf(now, slot, async (into) => {
    let last: Answer<TreeView> | undefined;
    for (const change of changes) {
      last = await changeTree(last?.ok ? (last.value.sha256 ?? undefined) : into, change);
      if (!last.ok) return last;
    }
    return last!;
  });
  if (!answer.ok) now().notify(answer.error.sentence);
}
