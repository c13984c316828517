'use client';

import type { DesignerState, DesignerStore } from './designer';
import { createContext, type ReactNode, useContext, useEffect, useState } from 'react';
import { useStore } from 'zustand';
import type { LayoutView } from '@/contract/layouts';
import { createDesigner } from './store';

const StoreContext = createContext<DesignerStore | undefined>(undefined);

/** Holds the state of one designer for everything below. */
export function DesignerProvider({ view, children }: { view: LayoutView; children: ReactNode }) {
  const [store] = useState(() => createDesigner(view));
  useEffect(() => store.getState().resume(), [store]);
  return <StoreContext value={store}>{children}</StoreContext>;
}

function useDesignerStore(): DesignerStore {
  const store = useContext(StoreContext);
  if (!store) throw new Error('useDesigner outside of a DesignerProvider');
  return store;
}

/** Reads a part of the designer's state. */
export function useDesigner<T>(pick: (state: DesignerState) => T): T {
  return useStore(useDesignerStore(), pick);
}

/** Reads the state as it is when it is asked for: for work that takes a while, and may end on another page. */
export function useDesignerNow(): () => DesignerState {
  const store = useDesignerStore();
  return () => store.getState().now();
}
