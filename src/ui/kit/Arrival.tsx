'use client';

import { usePathname } from 'next/navigation';
import { useEffect, useRef } from 'react';

/** Marks where the focus goes when a screen is arrived at; without one it goes to the work as a whole. */
export const ARRIVAL = { 'data-arrival': '' } as const;

/** Puts the focus where the work of a screen begins, whenever another screen is shown. */
export function Arrival() {
  const path = usePathname();
  const before = useRef(path);
  useEffect(() => {
    const isFirst = before.current === path;
    before.current = path;
    const marked = document.querySelector<HTMLElement>('[data-arrival]');
    // A page that was loaded keeps its beginning, where the first stop leads past the bars.
    const target = marked ?? (isFirst ? null : document.getElementById('main'));
    if (target && (document.activeElement === document.body || !isFirst)) target.focus({ preventScroll: true });
  }, [path]);
  return null;
}
