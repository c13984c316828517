'use client';

import { useState } from 'react';
import { copyText } from '../designer/state/clipboard';
import { Button } from '../kit/Button';

/** Puts a text on the clipboard, and says so for a moment. */
export function CopyButton({ text, name, children }: { text: string; name: string; children?: string }) {
  const [said, setSaid] = useState<string>();
  const copy = async () => {
    setSaid((await copyText(text)) ? 'copied' : 'not allowed');
    setTimeout(() => setSaid(undefined), 1500);
  };
  return (
    <Button look={children ? 'plain' : 'quiet'} onClick={() => void copy()} aria-label={name}>
      <span aria-live="polite">{said ?? children ?? 'copy'}</span>
    </Button>
  );
}
