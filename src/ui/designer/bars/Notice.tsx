'use client';

import { useRouter } from 'next/navigation';
import { createLayout } from '../../api';
import { Button } from '../../kit/Button';
import { useDesigner } from '../state/context';

/** What has to be said once, or that changes are not saved yet, on every screen that changes the layout. */
export function Notice() {
  const save = useDesigner((state) => state.save);
  const notice = useDesigner((state) => state.notice);
  const dismiss = useDesigner((state) => state.dismiss);
  const router = useRouter();
  const document = useDesigner((state) => state.document);
  const notify = useDesigner((state) => state.notify);
  const isWaiting = save.kind === 'waiting' || save.kind === 'gone';
  const sentence = isWaiting ? save.sentence : notice;
  if (!sentence) return null;
  const putAnew = async () => {
    const made = await createLayout(document, 'Put on the shelf anew');
    if (made.ok) router.push(`/layouts/${made.value.id}`);
    else notify(made.error.sentence);
  };
  return (
    <div role="alert" className="flex items-center gap-3 border-b border-line bg-selected px-4 py-1">
      <span className="flex-1">{sentence}</span>
      {save.kind === 'gone' && <Button onClick={() => void putAnew()}>Put it on the shelf anew</Button>}
      {!isWaiting && <Button onClick={dismiss}>Understood</Button>}
    </div>
  );
}
