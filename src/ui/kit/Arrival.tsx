'use client';

import { usePathname } from 'next/navigation';
import { useEffect, useRef } from 'react';

/** Marks where the focus goes when a screen is arrived at; without one it goes to the work as a whole. */
export const ARRIVAL = { 'data-arrival': '' } as const;

/** Goes to where the work of the screen begins. */
export function focusArrival(): void {
  const target = document.querySelector<HTMLElement>('[data-arrival]') ?? document.getElementById('main');
  target?.focus({ preventScroll: true });
}

/** Puts the focus where the work of a screen begins, whenever another screen is shown. */
export function Arrival() {
  const path = usePathname();
  const before = useRef(path);
  useEffect(() => {
    const isFirst = before.current === path;
    before.current = path;
    // A page that was loaded and marks no place keeps its beginning, where the first stop leads past the bars.
    const isMeant =
      !isFirst || (document.activeElement === document.body && document.querySelector('[data-arrival]') !== null);
    if (isMeant) focusArrival();
  }, [path]);
  return null;
}
