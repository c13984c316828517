import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import { Arrival } from '@/ui/kit/Arrival';
import { Keys } from '@/ui/kit/keys/Keys';
import { UploadBar } from '@/ui/upload/UploadBar';
import './globals.css';

export const metadata: Metadata = { title: 'Loess', description: 'Partition layouts, computed to the sector' };

/** Sets the theme before the first paint, so that a dark page never flashes light. */
const THEME_SCRIPT = `try{var t=localStorage.getItem('loess:theme');document.documentElement.dataset.theme=t||(matchMedia('(prefers-color-scheme: dark)').matches?'dark':'light')}catch(e){}`;

export default async function RootLayout({ children }: { children: ReactNode }) {
  // Each answer has a nonce of its own, which scripts need: no page is made ahead.
  const nonce = (await headers()).get('x-nonce') ?? undefined;
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: THEME_SCRIPT }} />
      </head>
      <body>
        <a href="#main" className="skip">
          Past the bars, to the work
        </a>
        {children}
        <UploadBar />
        <Keys />
        <Arrival />
      </body>
    </html>
  );
}
