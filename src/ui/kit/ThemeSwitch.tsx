'use client';

import { Button } from './Button';

/** Switches between the light and the dark theme; the choice is kept in this browser. */
export function ThemeSwitch() {
  const toggle = () => {
    const next = document.documentElement.dataset.theme === 'dark' ? 'light' : 'dark';
    document.documentElement.dataset.theme = next;
    localStorage.setItem('loess:theme', next);
  };
  return (
    <Button look="quiet" onClick={toggle} aria-label="Light or dark" title="Light or dark">
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
        <circle cx="7" cy="7" r="5.5" fill="none" stroke="currentColor" />
        <path d="M7 1.500A5.500 5.500 0 0 1 7 12.500Z" fill="currentColor" />
      </svg>
    </Button>
  );
}
