/** Linux swap space as a kind of content. */
import { guidFrom } from '../../bytes/guid';
import type { Kind, Site } from '../kind';
import type { PageSize } from './format';
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
  mounted: ({ uuid, label }) => ({ type: 'swap', id: uuid, label: label || undefined, known: 'made' }),
  typed: () => 'swap',
};
