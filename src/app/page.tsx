import { listImages } from '@/server/builds';
import { currentContext } from '@/server/context';
import { listImageFiles, strangeFiles } from '@/server/image-folder';
import { layoutsAway, shelf } from '@/server/layouts';
import { pageQuery } from '@/server/requests/check';
import { ShelfPageQuery } from '@/server/requests/queries';
import { Shelf } from '@/ui/shelf/Shelf';

export const dynamic = 'force-dynamic';

export default async function ShelfPage({ searchParams }: { searchParams: Promise<object> }) {
  const context = currentContext();
  const query = await pageQuery(searchParams, ShelfPageQuery);
  // An address that says nothing sensible shows the first page.
  const { find = '', page = 1 } = typeof query === 'string' ? {} : query;
  return (
    <Shelf
      view={await shelf(context, { find, page })}
      find={find}
      page={page}
      away={await layoutsAway(context)}
      images={await listImages(context)}
      files={await listImageFiles(context)}
      strange={await strangeFiles(context)}
      folder={context.folder.images}
    />
  );
}
