'use client';

import { isLocked } from '@/core/layout/kept';
import { Button } from '../../kit/Button';
import { Key } from '../../kit/Key';
import { useDesigner } from '../state/context';

/** Moving and deleting the selected slot. */
export function SlotActions({ id, name, start }: { id: string; name: string; start: number }) {
  const commit = useDesigner((state) => state.commit);
  const select = useDesigner((state) => state.select);
  const slots = useDesigner((state) => state.document.slots);
  const index = slots.findIndex((slot) => slot.id === id);
  const isKeptHere = slots[index] !== undefined && isLocked(slots[index]);
  return (
    <div className="mt-2 flex flex-wrap gap-1.5 border-t border-hair pt-2">
      <Button
        disabled={index <= 0 || isKeptHere}
        onClick={() => commit({ do: 'move slot', id, index: index - 1 })}
        aria-label={`Move ${name} up`}
      >
        Up <Key>Alt ↑</Key>
      </Button>
      <Button
        disabled={index >= slots.length - 1 || isKeptHere}
        onClick={() => commit({ do: 'move slot', id, index: index + 1 })}
        aria-label={`Move ${name} down`}
      >
        Down <Key>Alt ↓</Key>
      </Button>
      <Button onClick={() => commit({ do: 'remove slot', id })} aria-label={`Delete ${name}`}>
        Delete <Key>Del</Key>
      </Button>
      <Button onClick={() => select({ kind: 'ledger', sector: start })} aria-label={`Open ${name} in the ledger`}>
        Ledger <Key>L</Key>
      </Button>
    </div>
  );
}
