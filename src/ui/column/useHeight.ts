'use client';

import { type RefObject, useLayoutEffect, useRef, useState } from 'react';

/** Height of the column in a window of 1280x800, until the real one is known. */
const USUAL_HEIGHT = 604;

/** The height of a frame that a column fills, and the reference to put on it. */
export function useHeight(): [RefObject<HTMLDivElement | null>, number] {
  const ref = useRef<HTMLDivElement>(null);
  const [height, setHeight] = useState(USUAL_HEIGHT);
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setHeight(entry!.contentRect.height));
    observer.observe(ref.current!);
    return () => observer.disconnect();
  }, []);
  return [ref, height];
}
