import Link from 'next/link';
import { buttonClass } from '@/ui/kit/Button';
import { TopBar } from '@/ui/kit/TopBar';

export default function NotFound() {
  return (
    <>
      <TopBar title="Not on the shelf" />
      <main id="main" tabIndex={-1} className="mx-auto max-w-xl px-6 py-16">
        <p className="mb-4">There is nothing at this address. The layout may have been imported under another name.</p>
        <Link className={buttonClass()} href="/">
          To the shelf
        </Link>
      </main>
    </>
  );
}
