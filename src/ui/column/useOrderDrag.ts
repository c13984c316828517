'use client';

import { type DragEvent, useState } from 'react';
import { isLocked } from '@/core/layout/kept';
import type { Placement, Stratum } from '@/core/placement/placement';

/** Dragging one row: its handlers, and where what is dragged would go. */
export interface OrderDrag {
  readonly handlers: {
    readonly draggable: boolean;
    readonly onDragStart: (event: DragEvent) => void;
    readonly onDragOver: (event: DragEvent) => void;
    readonly onDrop: (event: DragEvent) => void;
    readonly onDragEnd: () => void;
  };
  readonly mark: 'above' | 'below' | undefined;
}

interface Aim {
  readonly id: string;
  readonly below: boolean;
}

/** Puts slots into another order by dragging their rows; Escape gives it up, as browsers do. */
export function useOrderDrag(
  { layout }: Placement,
  onMove: (id: string, index: number) => void,
): (stratum: Stratum) => OrderDrag | undefined {
  const [dragged, setDragged] = useState<string>();
  const [aim, setAim] = useState<Aim>();
  const indexOf = (id: string) => layout.slots.findIndex((slot) => slot.id === id);
  const done = () => {
    setDragged(undefined);
    setAim(undefined);
  };
  return (stratum) => {
    if (stratum.kind !== 'slot') return undefined;
    const { id } = stratum.placed.slot;
    return {
      mark: aim?.id === id && dragged !== id ? (aim.below ? 'below' : 'above') : undefined,
      handlers: {
        draggable: !isLocked(stratum.placed.slot),
        onDragStart: (event) => {
          event.dataTransfer.effectAllowed = 'move';
          event.dataTransfer.setData('text/plain', stratum.placed.slot.name);
          setDragged(id);
        },
        onDragOver: (event) => {
          if (dragged === undefined) return;
          event.preventDefault();
          const box = event.currentTarget.getBoundingClientRect();
          const below = event.clientY > box.top + box.height / 2;
          if (aim?.id !== id || aim.below !== below) setAim({ id, below });
        },
        onDrop: (event) => {
          event.preventDefault();
          if (dragged !== undefined && dragged !== id) {
            const from = indexOf(dragged);
            const to =
              indexOf(id) +
              (event.clientY >
              event.currentTarget.getBoundingClientRect().top + event.currentTarget.getBoundingClientRect().height / 2
                ? 1
                : 0);
            const index = from < to ? to - 1 : to;
            if (index !== from) onMove(dragged, index);
          }
          done();
        },
        onDragEnd: done,
      },
    };
  };
}
