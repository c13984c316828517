import type { Metadata } from 'next';
import { listFolder } from '@/server/browsing';
import { currentContext } from '@/server/context';
import { Refusal } from '@/server/refusal';
import { FolderScreen } from '@/ui/browse/FolderScreen';
import { Refused } from '@/ui/survey/Refused';

export const dynamic = 'force-dynamic';
export const metadata: Metadata = { title: 'Files of a volume · Loess' };

type Params = { searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>> };

const text = (value: string | string[] | undefined): string => (typeof value === 'string' ? value : '');

export default async function FilesPage({ searchParams }: Params) {
  const { of, partition, path } = await searchParams;
  const asked = { of: text(of), partition: text(partition), path: text(path) };
  const found = await listFolder(currentContext(), asked).catch((error: unknown) => {
    if (error instanceof Refusal) return error.message;
    throw error;
  });
  return typeof found === 'string' ? <Refused sentence={found} /> : <FolderScreen view={found} />;
}
