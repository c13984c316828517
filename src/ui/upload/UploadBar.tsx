'use client';

import dynamic from 'next/dynamic';
import { useEffect } from 'react';
import { useStore } from 'zustand';
import { isSending, uploads } from './uploads';

const UploadList = dynamic(() => import('./UploadList').then((file) => file.UploadList), { loading: () => null });

/** Height of one upload, in pixels. */
const ROW = 38;

/** Uploads that were begun on another page than the one at hand: where they stand, and what came of them. */
export function UploadBar() {
  const { all, shown } = useStore(uploads);
  useEffect(() => {
    const ask = (event: BeforeUnloadEvent) => {
      if (isSending()) event.preventDefault();
    };
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, []);
  const elsewhere = all.filter(({ id }) => !shown.has(id));
  const height = elsewhere.length * ROW;
  useEffect(() => {
    // The pages leave room for it, so that it covers nothing.
    document.documentElement.style.setProperty('--uploads', `${height}px`);
  }, [height]);
  if (elsewhere.length === 0) return null;
  return <UploadList uploads={elsewhere} row={ROW} />;
}
