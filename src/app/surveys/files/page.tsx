import type { Metadata } from 'next';
import { listFolder } from '@/server/browsing';
import { currentContext } from '@/server/context';
import { orSentence } from '@/server/refusal';
import { pageQuery } from '@/server/requests/check';
import { FolderPageQuery } from '@/server/requests/queries';
import { FolderScreen } from '@/ui/browse/FolderScreen';
import { Refused } from '@/ui/survey/Refused';

export const dynamic = 'force-dynamic';
export const metadata: Metadata = { title: 'Files of a volume · Loess' };

type Params = { searchParams: Promise<object> };

export default async function FilesPage({ searchParams }: Params) {
  const asked = await pageQuery(searchParams, FolderPageQuery);
  if (typeof asked === 'string') return <Refused sentence={asked} />;
  const found = await orSentence(listFolder(currentContext(), asked));
  return typeof found === 'string' ? <Refused sentence={found} /> : <FolderScreen view={found} />;
}
