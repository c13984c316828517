/** Linux swap space as it is written. */
import { grouped } from '../../quantity/units';
import { accountWith, unusedBehind } from '../account';
import type { Writer } from '../kind';
import { formatSwap, swapPages } from './format';
import type { SwapContent } from './shape';
import { pageSizeOf } from './kind';

export const SWAP_WRITER: Writer<SwapContent> = {
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
};
