/** Windows of one browser tell each other that a layout has a new revision. */
import type { LayoutView } from '@/contract/layouts';

const NAME = 'loess:layouts';

let channel: BroadcastChannel | undefined;
function opened(): BroadcastChannel | undefined {
  if (typeof window === 'undefined' || typeof BroadcastChannel === 'undefined') return undefined;
  return (channel ??= new BroadcastChannel(NAME));
}

interface News {
  readonly id: string;
  readonly revision: number;
}

/** Tells the other windows which revision of a layout is in force. */
export function tellOthers({ id, revision }: LayoutView): void {
  opened()?.postMessage({ id, revision } satisfies News);
}

/**
 * Calls `work` when another window says that the layout has changed, and when this one is looked at
 * again or is back on the network; returns how to end that.
 */
export function onNews(id: string, work: () => void): () => void {
  const heard = ({ data }: MessageEvent<News>) => {
    if (data.id === id) work();
  };
  const seen = () => {
    if (document.visibilityState === 'visible') work();
  };
  opened()?.addEventListener('message', heard);
  document.addEventListener('visibilitychange', seen);
  window.addEventListener('focus', seen);
  window.addEventListener('online', work);
  return () => {
    opened()?.removeEventListener('message', heard);
    document.removeEventListener('visibilitychange', seen);
    window.removeEventListener('focus', seen);
    window.removeEventListener('online', work);
  };
}
