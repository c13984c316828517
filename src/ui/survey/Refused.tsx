import Link from 'next/link';
import { buttonClass } from '../kit/Button';
import { TopBar } from '../kit/TopBar';

/** An image that cannot be surveyed: why, and the way back. */
export function Refused({ sentence }: { sentence: string }) {
  return (
    <>
      <TopBar title="Survey" detail="not possible" />
      <main id="main" tabIndex={-1} className="px-5 py-6">
        <p role="alert">{sentence}</p>
        <p className="mt-3">
          <Link className={buttonClass()} href="/">
            Back to the shelf
          </Link>
        </p>
      </main>
    </>
  );
}
