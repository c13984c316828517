'use client';

import { type SyntheticEvent, useLayoutEffect, useRef } from 'react';

/**
 * Keeps the whole text of a field selected when the text is exchanged while nobody types: what is typed
 * next replaces the new text, as it would have replaced the old one, and does not end up behind it.
 */
export function useSelectedWhole(text: string, isTyping: boolean) {
  const ref = useRef<HTMLInputElement>(null);
  const isWhole = useRef(false);
  useLayoutEffect(() => {
    if (isTyping) isWhole.current = false;
    else if (isWhole.current && document.activeElement === ref.current) ref.current?.select();
  }, [text, isTyping]);
  const onSelect = ({ currentTarget: { selectionStart, selectionEnd, value } }: SyntheticEvent<HTMLInputElement>) => {
    isWhole.current = value !== '' && selectionStart === 0 && selectionEnd === value.length;
  };
  return { ref, onSelect };
}
