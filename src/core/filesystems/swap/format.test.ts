import { memoryBlocks } from '../../bytes/blocks';
import { recognise } from '../readers';
import { formatSwap, LEAST_PAGES, PAGE_SIZES, type PageSize, swapLabelBytes, swapPages } from './format';

const identity = { uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', label: 'TIDESWAP' };

test.each(PAGE_SIZES)(
  'pages of %d bytes: the header at 1024, the signature at the end of the first page',
  async (pageSize) => {
    const size = 20 * pageSize + 100;
    const medium = new Uint8Array(512 + size).fill(0xa5);
    const [range] = formatSwap(512, size, { ...identity, pageSize });
    if (!range || !('bytes' in range.extent)) throw new Error('no header');
    medium.set(range.extent.bytes, range.extent.offset);
    const bytes = await memoryBlocks(medium).read(512, pageSize);
    const view = new DataView(bytes.buffer, bytes.byteOffset);
    expect([view.getUint32(1024, true), view.getUint32(1028, true), view.getUint32(1032, true)]).toEqual([1, 19, 0]);
    expect(Buffer.from(bytes.subarray(1036, 1052)).toString('hex')).toBe(identity.uuid.replaceAll('-', ''));
    expect(Buffer.from(bytes.subarray(1052, 1068)).toString()).toBe('TIDESWAP\0\0\0\0\0\0\0\0');
    expect(Buffer.from(bytes.subarray(pageSize - 10)).toString()).toBe('SWAPSPACE2');
    expect(bytes.subarray(0, 1024).every((byte) => byte === 0)).toBe(true);
    expect(recognise(medium.slice(512, 512 + 136 * 1024), new Uint8Array(0))).toMatchObject({
      label: 'TIDESWAP',
      id: identity.uuid,
    });
  },
);

test('whole pages only, and no more than a header can count', () => {
  expect(swapPages(LEAST_PAGES * 4096 - 1, 4096)).toBe(9);
  expect(swapPages(2 ** 50, 4096)).toBe(2 ** 32);
});

test.each<[string, number]>([
  ['TIDESWAP', 8],
  ['Gezeitenübung', 14],
])('the label %s has %d bytes', (label, bytes) => {
  expect(swapLabelBytes(label).length).toBe(bytes);
});

test('a header of one page size is never as long as that of another', () => {
  const lengths = PAGE_SIZES.map((pageSize: PageSize) => formatSwap(0, 2 ** 20, { ...identity, pageSize })[0]!.extent);
  expect(lengths.map((extent) => ('bytes' in extent ? extent.bytes.length : 0))).toEqual([...PAGE_SIZES]);
});
