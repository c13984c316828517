import { type DragEvent, useState } from 'react';

/** A place that something can be dropped on: whether something hovers over it, and its handlers. */
export function useDrop(take: (transfer: DataTransfer) => void) {
  const [isOver, setOver] = useState(false);
  return {
    isOver,
    handlers: {
      onDragOver: (event: DragEvent) => {
        event.preventDefault();
        setOver(true);
      },
      onDragLeave: () => setOver(false),
      onDrop: (event: DragEvent) => {
        event.preventDefault();
        event.stopPropagation();
        setOver(false);
        take(event.dataTransfer);
      },
    },
  };
}
