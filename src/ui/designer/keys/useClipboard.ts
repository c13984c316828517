'use client';

import { useEffect, useEffectEvent } from 'react';
import type { Edit } from '@/core/layout/edits';
import { linesOf } from '../state/clipboard';
import { useDesigner } from '../state/context';
import { idsOf } from '../state/selection';
import { isTaken } from '../../kit/keys/letters';

/** Copying and pasting slots as lines, between layouts and from any text. */
export function useClipboard() {
  const layout = useDesigner((state) => state.document);
  const selection = useDesigner((state) => state.selection);
  const commit = useDesigner((state) => state.commit);
  const select = useDesigner((state) => state.select);
  const notify = useDesigner((state) => state.notify);
  const onCopy = useEffectEvent((event: ClipboardEvent) => {
    const text = linesOf(layout, idsOf(selection));
    if (isTaken(event) || text === '' || String(document.getSelection()) !== '') return;
    event.preventDefault();
    event.clipboardData?.setData('text/plain', text);
    if (event.type === 'cut')
      commit({ do: 'several', edits: idsOf(selection).map((id): Edit => ({ do: 'remove slot', id })) });
  });
  // Reading lines comes with the first that are pasted.
  const takeLines = async (text: string) => {
    const [{ readLines }, { addingLines }] = await Promise.all([
      import('@/core/layout/line-help'),
      import('@/core/layout/pasted'),
    ]);
    const lines = readLines(text, layout.table.kind);
    const last = idsOf(selection).at(-1);
    const { edit, added, left, behind } = addingLines(
      layout,
      lines,
      lines.map(() => last),
    );
    if (added.length > 0) commit(edit);
    if (left.length > 0) {
      select({ kind: 'lines', begun: left.map((one) => one.text).join('\n'), behind });
      notify(`${added.length} of ${lines.length} pasted lines became slots; the others hold their places at the side.`);
    } else if (added.length > 0) select({ kind: 'slot', id: added.at(-1)! });
  };
  const onPaste = useEffectEvent((event: ClipboardEvent) => {
    const text = event.clipboardData?.getData('text/plain') ?? '';
    if (isTaken(event) || text.trim() === '') return;
    event.preventDefault();
    void takeLines(text);
  });
  useEffect(() => {
    const copy = (event: ClipboardEvent) => onCopy(event);
    const paste = (event: ClipboardEvent) => onPaste(event);
    window.addEventListener('copy', copy);
    window.addEventListener('cut', copy);
    window.addEventListener('paste', paste);
    return () => {
      window.removeEventListener('copy', copy);
      window.removeEventListener('cut', copy);
      window.removeEventListener('paste', paste);
    };
  }, []);
}
