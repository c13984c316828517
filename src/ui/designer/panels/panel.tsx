import type { ReactNode } from 'react';
import type { Placed } from '@/core/placement/placement';

/** Heading of the panel at the side. */
export function PanelHead({ title, detail }: { title: string; detail: ReactNode }) {
  return (
    <div className="pr-6">
      <h2 className="truncate text-base font-semibold">{title}</h2>
      <p className="text-soft">{detail}</p>
    </div>
  );
}

/** A block of labelled fields, set off by a hairline. */
export function Fields({ children }: { children: ReactNode }) {
  return (
    <div className="mt-2 grid grid-cols-[76px_1fr] items-center gap-x-2.5 gap-y-1.5 border-t border-hair pt-2">
      {children}
    </div>
  );
}

/** Why the boundaries of a slot are where they are. */
export function Reasons({ placed }: { placed: Placed }) {
  return (
    <dl className="mt-2 grid grid-cols-[76px_1fr] gap-x-2.5 border-t border-hair pt-2">
      <dt className="text-soft">Why here</dt>
      <dd>{placed.startReason.text}</dd>
      <dt className="text-soft">Why so big</dt>
      <dd>{placed.endReason.text}</dd>
    </dl>
  );
}
