'use client';

import type { ReactNode } from 'react';
import { useRemembered } from './remembered';

interface Props {
  /** What it is remembered by, where its title changes. */
  readonly name?: string;
  readonly title: string;
  /** What is said in it, in a few words, while it is closed. */
  readonly said: string;
  readonly children: ReactNode;
}

/** What is rarely changed: folded, with what it says now. What is opened for one slot stays open for the next. */
export function Fold({ title, name = title, said, children }: Props) {
  const [isOpen, setOpen] = useRemembered(`fold ${name}`);
  return (
    <details open={isOpen} onToggle={({ currentTarget: { open } }) => setOpen(open)} className="col-span-2 min-w-0">
      <summary className="flex cursor-pointer list-none items-baseline gap-1.5 rounded-sm py-0.5 text-soft hover:text-ink">
        <span aria-hidden="true" className="w-2 text-xs">
          {isOpen ? '▾' : '▸'}
        </span>
        <span className="shrink-0">{title}</span>
        <span className="min-w-0 truncate text-sm">{isOpen ? '' : said}</span>
      </summary>
      {isOpen && <div className="mt-1 mb-1 grid grid-cols-[76px_1fr] items-center gap-x-2.5 gap-y-1.5">{children}</div>}
    </details>
  );
}
