import { listImages } from '@/server/builds';
import { currentContext } from '@/server/context';
import { listLayouts } from '@/server/layouts';
import { Shelf } from '@/ui/shelf/Shelf';

export const dynamic = 'force-dynamic';

export default async function ShelfPage() {
  const context = currentContext();
  return <Shelf layouts={await listLayouts(context)} images={await listImages(context)} />;
}
