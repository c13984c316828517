import Link from 'next/link';
import type { ReactNode } from 'react';
import { Button } from './Button';
import { Key } from './Key';
import { showPalette, showSheet } from './keys/screen';
import { ThemeSwitch } from './ThemeSwitch';

function Waves() {
  return (
    <svg width="22" height="22" viewBox="0 0 22 22" aria-hidden="true">
      <path d="M1 6q5-4 10 0t10 0" fill="none" stroke="var(--clay)" strokeWidth="2.4" />
      <path d="M1 12q5-4 10 0t10 0" fill="none" stroke="var(--s-data-b)" strokeWidth="2.4" />
      <path d="M1 18q5-4 10 0t10 0" fill="none" stroke="var(--moss)" strokeWidth="2.4" />
    </svg>
  );
}

/** The bar on top of every screen: the way home, what is shown, and its actions. */
export function TopBar({ title, detail, children }: { title: string; detail?: ReactNode; children?: ReactNode }) {
  return (
    <header className="flex h-11 items-center gap-3 border-b border-line bg-card px-4">
      <Link href="/" aria-label="To the shelf" title="To the shelf" className="rounded-sm">
        <Waves />
      </Link>
      <h1 className="max-w-[40%] shrink-0 truncate text-[15px] font-semibold" title={title}>
        {title}
      </h1>
      <span className="min-w-0 truncate text-soft">{detail}</span>
      <span className="flex-1" />
      {children}
      <Button look="quiet" onClick={showSheet} aria-label="Keys" className="px-1">
        <Key>?</Key>
      </Button>
      <Button look="quiet" onClick={showPalette} aria-label="Orders" className="px-1">
        <Key>Ctrl K</Key>
      </Button>
      <ThemeSwitch />
    </header>
  );
}
