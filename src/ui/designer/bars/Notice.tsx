'use client';

import { Button } from '../../kit/Button';
import { useDesigner } from '../state/context';

/** What has to be said once, or that changes are not saved yet, on every screen that changes the layout. */
export function Notice() {
  const save = useDesigner((state) => state.save);
  const notice = useDesigner((state) => state.notice);
  const dismiss = useDesigner((state) => state.dismiss);
  const sentence = save.kind === 'waiting' ? save.sentence : notice;
  if (!sentence) return null;
  return (
    <div role="alert" className="flex items-center gap-3 border-b border-line bg-selected px-4 py-1">
      <span className="flex-1">{sentence}</span>
      {save.kind !== 'waiting' && <Button onClick={dismiss}>Understood</Button>}
    </div>
  );
}
