import { listImages } from '@/server/builds';
import { currentContext } from '@/server/context';
import { listImageFiles } from '@/server/image-folder';
import { layoutsAway, shelf } from '@/server/layouts';
import { Shelf } from '@/ui/shelf/Shelf';

export const dynamic = 'force-dynamic';

export default async function ShelfPage() {
  const context = currentContext();
  const { layouts, damaged } = await shelf(context);
  return (
    <Shelf
      layouts={layouts}
      damaged={damaged}
      away={await layoutsAway(context)}
      images={await listImages(context)}
      files={await listImageFiles(context)}
      folder={context.folder.images}
    />
  );
}
