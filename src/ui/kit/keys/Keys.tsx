'use client';

import dynamic from 'next/dynamic';
import { usePathname, useRouter } from 'next/navigation';
import { useEffect, useEffectEvent, useRef, useState } from 'react';
import { useStore } from 'zustand';
import { hasLetters, isTaken } from './letters';
import { currentScreen, type Order, type Shortcut, showPalette, showSheet, shownKeys } from './screen';

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
    layout === undefined
      ? []
      : [
          page('Back to the designer', layout),
          page('What goes in: files, loaders, boot code', `${layout}/contents`),
          page('Fit on several media', `${layout}/fit`),
          page('Build an image', `${layout}/build`),
        ];
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
  const onOpenChange = (isOpen: boolean) => {
    if (isOpen) return;
    typedAheadRef.current = undefined;
    shownKeys.setState(CLOSED);
    setOrders(undefined);
    setSheet(undefined);
    setTimeout(() => {
      const { current: before } = beforeRef;
      if (document.activeElement === document.body && before instanceof HTMLElement) before.focus();
    });
  };
  return (
    <>
      {open === 'palette' && orders && (
        <Palette open onOpenChange={onOpenChange} orders={orders} typedAheadRef={typedAheadRef} />
      )}
      {open === 'sheet' && sheet && <Sheet onOpenChange={onOpenChange} shortcuts={sheet} />}
    </>
  );
}
