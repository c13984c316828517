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

/** The screens of a layout as orders, some with the letters of its designer, where these act; `slot` is the query that leads to what is selected in it. */
export function layoutScreens(layout: string, go: (path: string) => void, designer?: { slot: string }): Order[] {
  const page = (name: string, to: string, letter?: string): Order => ({
    name,
    group: 'Screens',
    run: () => go(`${layout}/${to}`),
    ...(letter && designer && { keys: letter }),
  });
  const { slot = '' } = designer ?? {};
  return [
    page('What goes in: files, loaders, boot code', `contents${slot}`, 'W'),
    page('Study the variants of a FAT', `study${slot}`, 'V'),
    page('Fit on several media', 'fit', 'I'),
    page('Compare revisions', 'compare'),
    page('Hand over: mount table, steps, ids', 'hand-over', 'O'),
    page('Build an image', 'build', 'B'),
  ];
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
