'use client';

import { useEffect } from 'react';
import { createStore } from 'zustand/vanilla';

/** Something that can be asked for by name. */
export interface Order {
  readonly name: string;
  readonly group: string;
  readonly keys?: string;
  readonly run: () => void;
}

/** Keys, and what they do. */
export type Shortcut = readonly [keys: string, text: string];

/** What a screen adds to the orders and keys that every screen has; both come when they are asked for. */
export interface ScreenKeys {
  readonly orders: () => Promise<readonly Order[]>;
  readonly sheet: () => Promise<readonly Shortcut[]>;
}

let screen: ScreenKeys | undefined;

/** The orders and keys of the screen that is shown. */
export function currentScreen(): ScreenKeys | undefined {
  return screen;
}

/** Offers the orders and keys of a screen as long as it is shown. */
export function useScreenOffers(offered: ScreenKeys): void {
  useEffect(() => {
    screen = offered;
    return () => {
      if (screen === offered) screen = undefined;
    };
  }, [offered]);
}

/** Which of the two is open. */
export const shownKeys = createStore<{ readonly open: 'palette' | 'sheet' | undefined }>(() => ({ open: undefined }));

/** Opens the palette of orders. */
export const showPalette = () => shownKeys.setState({ open: 'palette' });
/** Opens the sheet of keys. */
export const showSheet = () => shownKeys.setState({ open: 'sheet' });
