'use client';

import dynamic from 'next/dynamic';
import { useState } from 'react';
import { buttonClass } from '../../kit/Button';
import type { NewKind } from '@/core/advice/adding';
import { useDesigner } from '../state/context';

const ADD_BUTTON = `${buttonClass()} py-0.5`;
const ADD_TEXT = 'Add a slot';

const AddChoices = dynamic(() => import('./AddChoices').then((file) => file.AddChoices), {
  loading: () => (
    <button type="button" className={ADD_BUTTON} disabled>
      {ADD_TEXT}
    </button>
  ),
});

/** Adding a slot of one of the three kinds. The menu is loaded when it is first asked for. */
export function AddMenu({ onAdd }: { onAdd: (kind: NewKind) => void }) {
  const full = useDesigner((state) => state.document.slots.length >= 256);
  const [isAsked, setAsked] = useState(false);
  if (isAsked) return <AddChoices onAdd={onAdd} disabled={full} className={ADD_BUTTON} text={ADD_TEXT} />;
  return (
    <button
      type="button"
      aria-haspopup="menu"
      aria-expanded={false}
      className={ADD_BUTTON}
      disabled={full}
      onClick={() => setAsked(true)}
      onKeyDown={(event) => {
        if (event.key === 'ArrowDown') setAsked(true);
      }}
    >
      {ADD_TEXT}
    </button>
  );
}
