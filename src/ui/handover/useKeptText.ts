import { useEffect, useState } from 'react';

/** A text that survives a reload of the page: the browser keeps it for as long as its window lives. */
export function useKeptText(name: string): readonly [string, (text: string) => void] {
  const key = `loess table ${name}`;
  const [text, setText] = useState('');
  useEffect(() => {
    const before = window.sessionStorage.getItem(key);
    // What is kept is known only in the browser, after the first picture.
    if (before !== null) queueMicrotask(() => setText(before));
  }, [key]);
  return [
    text,
    (next) => {
      setText(next);
      try {
        window.sessionStorage.setItem(key, next);
      } catch {
        // It is too large to be kept, or nothing may be: it lives with the page.
      }
    },
  ];
}
