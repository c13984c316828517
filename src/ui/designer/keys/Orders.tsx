'use client';

import type { RefObject } from 'react';
import { useAdding, useLedger } from '../state/actions';
import { Palette } from './Palette';
import { useOrders } from './useOrders';

/** The palette with what can be ordered now; it comes with its first use. */
export function Orders({
  open,
  onOpenChange,
  showSheet,
  typedAheadRef,
}: {
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
  readonly showSheet: () => void;
  readonly typedAheadRef: RefObject<string | undefined>;
}) {
  const orders = useOrders({ add: useAdding(), openLedger: useLedger(), showSheet });
  return <Palette open={open} onOpenChange={onOpenChange} orders={orders} typedAheadRef={typedAheadRef} />;
}
