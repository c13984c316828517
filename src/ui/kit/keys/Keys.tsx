'use client';

import dynamic from 'next/dynamic';
import { usePathname, useRouter } from 'next/navigation';
import { useEffect, useEffectEvent, useRef, useState } from 'react';
import { flushSync } from 'react-dom';
import { useStore } from 'zustand';
import { focusArrival } from '../Arrival';
import { hasLetters, isTaken } from './letters';
import { currentScreen, layoutScreens, type Order, type Shortcut, showPalette, showSheet, shownKeys } from './screen';

const Palette = dynamic(() => import('./Palette').then((file) => file.Palette), { loading: () => null });
const Sheet = dynamic(() => import('./Sheet').then((file) => file.Sheet), { loading: () => null });

const CLOSED = { open: undefined } as const;

/** The palette of orders and the sheet of keys, on every screen: those of the screen, and those that all have. */
export function Keys() {
  const router = useRouter();
  const open = useStore(shownKeys, (state) => state.open);
  const [orders, setOrders] = useState<readonly Order[]>();
  const [sheet, setSheet] = useState<readonly Shortcut[]>();
  // What is typed between the key for the palette and its appearance.
  const typedAheadRef = useRef<string>(undefined);
  // Where the focus was, and goes back to.
  const beforeRef = useRef<Element>(null);
  const page = (name: string, to: string): Order => ({ name, group: 'Screens', run: () => router.push(to) });
  const layout = /^\/layouts\/[^/]+/.exec(usePathname())?.[0];
  // A screen with orders of its own says these itself.
  const ofLayout: readonly Order[] =
    layout === undefined ? [] : [page('Back to the designer', layout), ...layoutScreens(layout, router.push)];
  const common: readonly Order[] = [
    page('To the shelf', '/'),
    page('To the bench', '/bench'),
    page('To the data folder', '/data'),
    page('Start a new layout with questions', '/new'),
    { name: 'All keys', group: 'Screens', keys: '?', run: showSheet },
  ];
  const load = useEffectEvent(async (what: 'palette' | 'sheet') => {
    beforeRef.current = document.activeElement;
    const own = currentScreen();
    if (what === 'palette') setOrders([...((await own?.orders()) ?? ofLayout), ...common]);
    else setSheet((await own?.sheet()) ?? []);
  });
  useEffect(() => shownKeys.subscribe((state) => state.open !== undefined && void load(state.open)), []);
  const onKey = useEffectEvent((event: KeyboardEvent) => {
    const control = event.ctrlKey || event.metaKey;
    if (control && event.key.toLowerCase() === 'k') {
      event.preventDefault();
      typedAheadRef.current ??= '';
      showPalette();
    } else if (typedAheadRef.current !== undefined) {
      // The palette is on its way: what is typed belongs to it, and to nothing else.
      event.preventDefault();
      event.stopPropagation();
      if (event.key.length === 1 && !control) typedAheadRef.current += event.key;
    } else if (event.key === '?' && !control && !event.altKey && !isTaken(event) && hasLetters()) {
      event.preventDefault();
      showSheet();
    }
  });
  useEffect(() => {
    const listener = (event: KeyboardEvent) => onKey(event);
    window.addEventListener('keydown', listener, true);
    return () => window.removeEventListener('keydown', listener, true);
  }, []);
  const close = () => {
    typedAheadRef.current = undefined;
    // Gone at once, and the focus back: what is typed next belongs to the screen.
    flushSync(() => {
      shownKeys.setState(CLOSED);
      setOrders(undefined);
      setSheet(undefined);
    });
    const { current: before } = beforeRef;
    if (before instanceof HTMLElement && before !== document.body && before.isConnected) before.focus();
    else focusArrival();
  };
  return (
    <>
      {open === 'palette' && orders && <Palette close={close} orders={orders} typedAheadRef={typedAheadRef} />}
      {open === 'sheet' && sheet && <Sheet close={close} shortcuts={sheet} />}
    </>
  );
}
