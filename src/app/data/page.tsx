import type { Metadata } from 'next';
import { currentContext } from '@/server/context';
import { holdings } from '@/server/holdings';
import { FolderScreen } from '@/ui/keeping/FolderScreen';

export const dynamic = 'force-dynamic';

export const metadata: Metadata = { title: 'Data folder · Loess' };

export default async function DataPage() {
  return <FolderScreen first={await holdings(currentContext())} />;
}
