import { listImages } from '@/server/builds';
import { currentContext } from '@/server/context';
import { listImageFiles } from '@/server/image-folder';
import { listLayouts } from '@/server/layouts';
import { Shelf } from '@/ui/shelf/Shelf';

export const dynamic = 'force-dynamic';

export default async function ShelfPage() {
  const context = currentContext();
  return (
    <Shelf
      layouts={await listLayouts(context)}
      images={await listImages(context)}
      files={await listImageFiles(context)}
      folder={context.folder.images}
    />
  );
}
