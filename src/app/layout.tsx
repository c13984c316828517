import type { ReactNode } from 'react';
export default function Root({ children }: { children: ReactNode }) { return <html lang="en"><body>{children}</body></html>; }
