'use client';

import { createContext, type ReactNode, useContext } from 'react';

const HomeContext = createContext<(() => void) | undefined>(undefined);

/** Says where the focus goes when Enter has taken what was typed into one of the fields below. */
export function FocusHome({ go, children }: { readonly go: () => void; readonly children: ReactNode }) {
  return <HomeContext value={go}>{children}</HomeContext>;
}

/** Goes to where the focus is at home; a field stays where it is on a screen that has no such place. */
export function useGoHome(): () => void {
  return useContext(HomeContext) ?? (() => undefined);
}
