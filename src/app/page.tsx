import { listImages } from '@/server/builds';
import { currentContext } from '@/server/context';
import { listImageFiles } from '@/server/image-folder';
import { shelf } from '@/server/layouts';
import { Shelf } from '@/ui/shelf/Shelf';

export const dynamic = 'force-dynamic';

export default async function ShelfPage() {
  const context = currentContext();
  const { layouts, damaged } = await shelf(context);
  return (
    <Shelf
      layouts={layouts}
      damaged={damaged}
      images={await listImages(context)}
      files={await listImageFiles(context)}
      folder={context.folder.images}
    />
  );
}
