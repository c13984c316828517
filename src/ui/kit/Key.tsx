import type { ReactNode } from 'react';

/** A key of the keyboard. */
export function Key({ children }: { children: ReactNode }) {
  return <kbd className="rounded-[4px] border border-b-2 border-line px-1 font-sans text-xs text-soft">{children}</kbd>;
}
