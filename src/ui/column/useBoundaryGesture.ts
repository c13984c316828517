'use client';

import { type KeyboardEvent, type PointerEvent, useRef, useState } from 'react';
import type { Edit } from '@/core/layout/edits';
import { type Boundary, boundaryBelow, type BoundaryMove, moveBoundary } from '@/core/placement/boundary';
import type { Placement } from '@/core/placement/placement';

/** A boundary on its way. */
export interface Gesture {
  readonly id: string;
  readonly move: BoundaryMove;
}

interface Options {
  /** The placement before the gesture. */
  readonly base: Placement;
  /** The sector under a height of the column, for the boundary below a slot. */
  readonly sectorUnder: (boundary: Boundary, clientY: number) => number;
  readonly preview: (edit: Edit | undefined) => void;
  readonly commit: (edit: Edit) => void;
}

/** How far the handle reaches above its boundary, in pixels. */
export const HANDLE_ABOVE = 5;

/** Steps of the keys, in grains. */
const STEPS: Readonly<Record<string, number>> = { ArrowUp: -1, ArrowDown: 1, PageUp: -16, PageDown: 16 };

/**
 * Moving boundaries with pointer and keys. While it lasts the layout is only previewed; letting
 * go (of the button, or the key) makes it one change; Escape gives it up.
 */
export function useBoundaryGesture({ base, sectorUnder, preview, commit }: Options) {
  const [gesture, setGesture] = useState<Gesture>();
  const current = useRef<Gesture>(undefined);
  /** How far from the boundary it was taken hold of, while a pointer holds it. */
  const grip = useRef<number>(undefined);

  const show = (next: Gesture | undefined) => {
    current.current = next;
    setGesture(next);
    preview(next?.move.edit);
  };
  const moveTo = (id: string, sector: number) => {
    const boundary = boundaryBelow(base, id);
    if (boundary) show({ id, move: moveBoundary(base, boundary, sector) });
  };
  const finish = () => {
    grip.current = undefined;
    const done = current.current;
    const boundary = done && boundaryBelow(base, done.id);
    show(undefined);
    if (done && boundary && done.move.sector !== boundary.upper.start + boundary.upper.sectors) commit(done.move.edit);
  };

  const giveUp = () => {
    grip.current = undefined;
    show(undefined);
  };

  /** Moves the boundary below a slot by so many grains, as a gesture that is not finished. */
  const nudge = (id: string, grains: number) => {
    const boundary = boundaryBelow(base, id);
    if (!boundary) return;
    const from =
      current.current?.id === id ? current.current.move.sector : boundary.upper.start + boundary.upper.sectors;
    moveTo(id, from + grains * base.grain.sectors);
  };

  /** Handlers for the handle of the boundary below a slot. */
  const handle = (id: string) => ({
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      if (event.button !== 0) return;
      event.preventDefault();
      event.currentTarget.setPointerCapture(event.pointerId);
      event.currentTarget.focus();
      const box = event.currentTarget.getBoundingClientRect();
      grip.current = event.clientY - (box.top + HANDLE_ABOVE);
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      const boundary = boundaryBelow(base, id);
      if (grip.current === undefined || !boundary) return;
      moveTo(id, sectorUnder(boundary, event.clientY - grip.current));
    },
    onPointerUp: finish,
    onPointerCancel: giveUp,
    onKeyDown: (event: KeyboardEvent<HTMLElement>) => {
      const grains = STEPS[event.key];
      if (event.key === 'Escape') giveUp();
      if (grains === undefined || event.altKey || event.ctrlKey) return;
      event.preventDefault();
      event.stopPropagation();
      nudge(id, event.shiftKey ? grains * 16 : grains);
    },
    onKeyUp: (event: KeyboardEvent<HTMLElement>) => {
      if (STEPS[event.key] !== undefined) finish();
    },
    onBlur: finish,
  });

  return { gesture, handle, nudge, finish };
}
