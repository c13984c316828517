'use client';

import { useState } from 'react';
import { Button } from './Button';

interface Props {
  /** Says of what it is, for readers of the screen. */
  readonly name: string;
  readonly question: string;
  readonly onSure: () => void;
}

/** Deleting what cannot be brought back: asked once more, where the button was. */
export function DeleteForGood({ name, question, onSure }: Props) {
  const [isAsked, setAsked] = useState(false);
  if (!isAsked)
    return (
      <Button look="quiet" onClick={() => setAsked(true)} aria-label={`Delete ${name}`}>
        Delete
      </Button>
    );
  return (
    <>
      <span>{question}</span>
      <Button autoFocus onClick={onSure}>
        Delete for good
      </Button>
      <Button look="quiet" onClick={() => setAsked(false)}>
        Keep it
      </Button>
    </>
  );
}
