import { GPT_TABLE, layoutOn, NO_TABLE, part } from '@tests/samples';
import { pageSizeOf } from '../filesystems/swap/kind';
import { place } from './place';
import { isPartition } from './placement';
import { siteIn } from './site';

const SWAP = { kind: 'swap', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5' } as const;

function siteOn(more: Parameters<typeof layoutOn>[2], slot = part('a', '1 GiB')) {
  const placement = place(layoutOn('4 GiB', [slot], more));
  return siteIn(placement.placed.filter(isPartition)[0]!, placement);
}

test('the page of a swap space is its own, or the machine’s, or 4 KiB', () => {
  const on = (pageSize?: 4096 | 16_384 | 65_536) => siteOn(pageSize ? { machine: { pageSize } } : {});
  expect(pageSizeOf(SWAP, on())).toBe(4096);
  expect(pageSizeOf(SWAP, on(65_536))).toBe(65_536);
  expect(pageSizeOf({ ...SWAP, pageSize: 16_384 }, on(65_536))).toBe(16_384);
});

test('a site tells the place, the table and the role', () => {
  expect(siteOn({ table: GPT_TABLE }, part('e', '1 GiB', { role: 'esp' }))).toMatchObject({
    start: 2048,
    sectors: 2_097_152,
    sectorSize: 512,
    wholeMedium: false,
    isEsp: true,
  });
  expect(siteOn({ table: NO_TABLE })).toMatchObject({ start: 0, wholeMedium: true, isEsp: false });
});
