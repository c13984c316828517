/**
 * Linux swap space, version 1: a header at byte 1024 and a signature at the end of the first
 * page ("union swap_header" of the kernel's include/linux/swap.h). Where the signature stands
 * follows from the page size of the machine that will use it.
 */
import type { Extent } from '../../bytes/extents';
import { uuidBytes } from '../../bytes/guid';
import { encode, field, record } from '../../bytes/record';

export const PAGE_SIZES = [4096, 16_384, 65_536] as const;
export type PageSize = (typeof PAGE_SIZES)[number];

/** Fewest pages that a kernel takes, the one of the header included. */
export const LEAST_PAGES = 10;
/** Longest label, in bytes. */
export const SWAP_LABEL_LIMIT = 16;

const HEADER_AT = 1024;
const SIGNATURE = 'SWAPSPACE2';
/** The last page is a 32-bit number. */
const MOST_PAGES = 2 ** 32;

/** What stands at byte 1024. The UUID is stored as it is written. */
const SWAP_HEADER = record('swap header', 48, {
  version: field(0, 'u32', 'version: 1'),
  lastPage: field(4, 'u32', 'last page'),
  badPages: field(8, 'u32', 'pages that are bad: none'),
  uuid: field(12, { bytes: 16 }, 'UUID'),
  label: field(28, { bytes: 16 }, 'label'),
});

export interface SwapIdentity {
  readonly uuid: string;
  readonly label: string;
  readonly pageSize: PageSize;
}

/** Bytes of a label as it is stored. */
export function swapLabelBytes(label: string): Uint8Array {
  return new TextEncoder().encode(label);
}

/** Pages of a space of so many bytes: whole ones, the header's included. */
export function swapPages(bytes: number, pageSize: PageSize): number {
  return Math.min(Math.floor(bytes / pageSize), MOST_PAGES);
}

/**
 * The first page of a swap space of `bytes` bytes, which is all that is defined, at `offset` of the
 * medium. It must have at least LEAST_PAGES pages. The label must fit.
 */
export function formatSwap(
  offset: number,
  bytes: number,
  { uuid, label, pageSize }: SwapIdentity,
): { what: string; extent: Extent }[] {
  const page = new Uint8Array(pageSize);
  const stored = new Uint8Array(SWAP_LABEL_LIMIT);
  stored.set(swapLabelBytes(label));
  page.set(
    encode(SWAP_HEADER, {
      version: 1,
      lastPage: swapPages(bytes, pageSize) - 1,
      badPages: 0,
      uuid: uuidBytes(uuid),
      label: stored,
    }),
    HEADER_AT,
  );
  page.set(
    Uint8Array.from(SIGNATURE, (c) => c.charCodeAt(0)),
    pageSize - SIGNATURE.length,
  );
  return [{ what: 'swap header', extent: { offset, bytes: page } }];
}
