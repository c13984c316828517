'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { type RefObject, useLayoutEffect, useState } from 'react';

/** Rows up to which all of a list stand in the page. */
const ALL = 200;
/** Rows beside those that are seen. */
const BESIDE = 20;

/** A row that stands in the page now. */
export interface LongRow {
  readonly index: number;
}

export interface LongRows {
  readonly rows: readonly LongRow[];
  /** Heights of what is left out above and below, in pixels. */
  readonly above: number;
  readonly below: number;
  /** Measures a row; it must have its index in `data-index`. */
  readonly measure: ((row: Element | null) => void) | undefined;
  readonly scrollTo: (index: number) => void;
}

/** Where a row stands in a list that may be long. */
export interface ListPlace {
  readonly index: number;
  readonly measure: LongRows['measure'];
}

function scrollerOf(element: Element | null): Element | null {
  for (let one = element?.parentElement ?? null; one; one = one.parentElement)
    if (/auto|scroll/.test(getComputedStyle(one).overflowY)) return one;
  return document.scrollingElement;
}

/** The rows of a list of any length that have to stand in the page: all of a short one, those around what is seen of a long one. */
export function useLongRows(list: RefObject<Element | null>, count: number, height: number): LongRows {
  const isLong = count > ALL;
  const [place, setPlace] = useState<{ readonly scroller: Element | null; readonly margin: number }>();
  useLayoutEffect(() => {
    const element = list.current;
    if (!isLong || !element) return undefined;
    const look = () => {
      const scroller = scrollerOf(element);
      const top = scroller?.getBoundingClientRect().top ?? 0;
      const margin = Math.round(element.getBoundingClientRect().top - top + (scroller?.scrollTop ?? 0));
      setPlace((before) => (before?.scroller === scroller && before.margin === margin ? before : { scroller, margin }));
    };
    look();
    // A list that was folded away has its place only when it is opened.
    const observer = new ResizeObserver(look);
    observer.observe(element);
    return () => observer.disconnect();
  }, [isLong, list]);
  const margin = place?.margin ?? 0;
  // No compiler memoizes here: what comes of it is used in this function only.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count: isLong ? count : 0,
    getScrollElement: () => place?.scroller ?? null,
    estimateSize: () => height,
    overscan: BESIDE,
    scrollMargin: margin,
    initialRect: { width: 0, height: 800 },
  });
  if (!isLong) {
    const rows = Array.from({ length: count }, (_, index) => ({ index }));
    return { rows, above: 0, below: 0, measure: undefined, scrollTo: () => undefined };
  }
  const seen = virtual.getVirtualItems();
  return {
    rows: seen,
    above: Math.max(0, (seen[0]?.start ?? margin) - margin),
    below: Math.max(0, virtual.getTotalSize() - ((seen.at(-1)?.end ?? margin) - margin)),
    measure: virtual.measureElement,
    scrollTo: (index) => virtual.scrollToIndex(index),
  };
}
