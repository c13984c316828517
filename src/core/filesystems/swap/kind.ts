/** Linux swap space as a kind of content. */
import { guidFrom } from '../../bytes/guid';
import { grouped } from '../../quantity/units';
import { accountWith, unusedBehind } from '../account';
import type { Kind, Site } from '../kind';
import { formatSwap, type PageSize, swapPages } from './format';
import type { SwapContent } from './shape';

/** Page of a swap space in bytes: its own, or that of the machine. */
export function pageSizeOf({ pageSize }: SwapContent, site: Pick<Site, 'pageSize'>): PageSize {
  return pageSize ?? site.pageSize;
}

export const SWAP: Kind<SwapContent> = {
  kind: 'swap',
  word: 'swap',
  identity: {
    of: ({ uuid }) => uuid,
    with: (content, uuid) => ({ ...content, uuid }),
    from: guidFrom,
    suffix: '/swap',
  },
  fresh: (uuid) => ({ kind: 'swap', uuid }),
  summary: ({ label }) => ({ word: 'swap', detail: label || undefined }),
  ranges(content, site) {
    const { start, sectors, sectorSize } = site;
    const { uuid, label = '' } = content;
    return formatSwap(start * sectorSize, sectors * sectorSize, { uuid, label, pageSize: pageSizeOf(content, site) });
  },
  account(content, site) {
    const bytes = site.sectors * site.sectorSize;
    const pageSize = pageSizeOf(content, site);
    const pages = swapPages(bytes, pageSize);
    const toSwapTo = Math.max(0, pages - 1);
    return accountWith(`swap, ${grouped(pages)} pages of ${pageSize / 1024} KiB`, [
      { name: 'Header, one page', bytes: Math.min(bytes, pageSize), use: 'structure' },
      { name: `${grouped(toSwapTo)} pages to swap to`, bytes: toSwapTo * pageSize, use: 'free' },
      unusedBehind(bytes, Math.max(1, pages) * pageSize),
    ]);
  },
  typed: () => 'swap',
};
