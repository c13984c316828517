import Link from 'next/link';
import type { ShelfView } from '@/contract/layouts';
import { counted } from '@/core/quantity/units';
import { Button, buttonClass } from '../kit/Button';

/** From so many layouts on they are filtered: fewer are seen at a glance. */
const MANY = 12;

/** A text that names must have in them. It goes into the address, so that it can be kept. */
export function Filter({ view, find }: { view: ShelfView; find: string }) {
  if (view.total < MANY && find === '') return null;
  return (
    <form action="/" className="flex items-center gap-2 text-sm font-normal" role="search">
      <input
        key={find}
        type="search"
        name="find"
        aria-label="Names that have in them"
        defaultValue={find}
        maxLength={100}
        placeholder="a part of the name"
        className="w-48 rounded-[5px] border border-edge bg-card px-2 py-[3px]"
      />
      <Button type="submit">Filter</Button>
      <span className="text-soft">{counted(view.total, 'layout')}</span>
    </form>
  );
}

/** The way to the other pages, where there are some. */
export function Pages({ view, find, page }: { view: ShelfView; find: string; page: number }) {
  const { pages } = view;
  if (pages === 1) return null;
  const to = (number: number) => `/?${new URLSearchParams({ ...(find !== '' && { find }), page: String(number) })}`;
  return (
    <nav aria-label="Pages of the shelf" className="mt-3 flex items-center gap-2">
      {page > 1 && (
        <Link className={buttonClass()} href={to(page - 1)}>
          Page before
        </Link>
      )}
      <span className="text-soft">
        page {page} of {pages}
      </span>
      {page < pages && (
        <Link className={buttonClass()} href={to(page + 1)}>
          Next page
        </Link>
      )}
    </nav>
  );
}
