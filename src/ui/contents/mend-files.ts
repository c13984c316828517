import type { FileRemedy } from '@/core/findings/layout/file-remedies';
import { changeTree } from '../api';
import type { DesignerState } from '../designer/state/designer';
import { changeFilesOf } from './files-of';

/** Carries a remedy out that changes files; says what is refused. */
export async function mendFiles(now: () => DesignerState, { slot, change }: FileRemedy): Promise<void> {
  const answer = await changeFilesOf(now, slot, (into) => changeTree(into, change));
  if (!answer.ok) now().notify(answer.error.sentence);
}
