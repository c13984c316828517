/** Code of our own: its listings against an assembler, and where it goes. */
import { assembled } from '@tests/assembler';
import { fatPart, GPT_TABLE, layoutOn, NO_TABLE, raw } from '@tests/samples';
import { codeOfListing, sourceOfListing } from '../bytes/listing';
import { NO_LOADER, NO_LOADER_LISTING } from '../filesystems/fat/no-loader';
import { check } from '../findings/layout/check';
import type { Layout } from '../layout/document';
import { applyEdit } from '../layout/edits';
import { place } from '../placement/place';
import { GPT_CODE, GPT_CODE_LISTING } from '../tables/gpt-code';
import { CODE_LENGTH } from '../tables/mbr';
import { MBR_CODE, MBR_CODE_LISTING } from '../tables/mbr-code';
import { compose } from './compose';

describe.each([
  ['beside an MBR', MBR_CODE_LISTING, MBR_CODE, 0x600, CODE_LENGTH],
  ['beside a GPT', GPT_CODE_LISTING, GPT_CODE, 0x600, CODE_LENGTH],
  ['of a volume without a loader', NO_LOADER_LISTING, NO_LOADER, 0x7c3e, 420],
] as const)('the listing %s', (_, listing, code, address, room) => {
  test('has the bytes that an assembler makes of it, and fits', () => {
    expect(Buffer.from(code).equals(assembled(sourceOfListing(listing), address))).toBe(true);
    expect(code.length).toBeLessThanOrEqual(room);
  });
});

test('a listing has its bytes at the left of the bar alone', () => {
  expect([...codeOfListing('  fa | cli\n     | label:\n31c0 | xor ax, ax # 00 | 11\n')]).toEqual([0xfa, 0x31, 0xc0]);
});

const BIOS: Partial<Layout> = { boots: ['bios'], machine: { loaderFrom: 'own code' } };
const slots = () => [fatPart('boot', '40 MiB', {}, { role: 'boot', active: true })];
/** Bytes of sector 0 that the composed layout has there. */
function sectorOf(layout: Layout): Buffer {
  const sector = Buffer.alloc(512, 0xee);
  for (const { extent } of compose(place(layout)))
    if (extent.offset < 512 && 'bytes' in extent)
      sector.set(extent.bytes.subarray(0, 512 - extent.offset), extent.offset);
    else if (extent.offset < 512 && 'zeros' in extent) sector.fill(0, extent.offset, extent.offset + extent.zeros);
  return sector;
}

describe('it goes into sector 0', () => {
  test('where the layout asks for it, with the table behind it', () => {
    const mbr = sectorOf(layoutOn('64 MiB', slots(), BIOS));
    expect(mbr.subarray(0, MBR_CODE.length).equals(Buffer.from(MBR_CODE))).toBe(true);
    expect(mbr.subarray(MBR_CODE.length, CODE_LENGTH).every((byte) => byte === 0)).toBe(true);
    expect(mbr.readUInt32LE(CODE_LENGTH)).toBe(0x6d617272);
    expect(mbr[446]).toBe(0x80);
    const gpt = sectorOf(
      layoutOn('64 MiB', [fatPart('boot', '40 MiB', {}, { attributes: ['legacy boot'] })], {
        ...BIOS,
        table: GPT_TABLE,
      }),
    );
    expect(gpt.subarray(0, GPT_CODE.length).equals(Buffer.from(GPT_CODE))).toBe(true);
    expect(gpt.readUInt16LE(510)).toBe(0xaa55);
  });

  test('and nowhere else: not unasked, not without a table, not below a raw range, not beside a GPT of larger sectors', () => {
    const starts = (layout: Layout) => sectorOf(layout)[0] === MBR_CODE[0];
    expect(starts(layoutOn('64 MiB', slots(), { boots: ['bios'] }))).toBe(false);
    expect(starts(layoutOn('64 MiB', slots(), { machine: BIOS.machine }))).toBe(false);
    expect(starts(layoutOn('64 MiB', [fatPart('a', 'rest')], { ...BIOS, table: NO_TABLE }))).toBe(false);
    expect(starts(layoutOn('64 MiB', [raw('loader', '0', '400 B'), ...slots()], BIOS))).toBe(false);
    const medium = {
      kind: 'image',
      capacity: { exact: '400 MiB' },
      logicalSector: 4096,
      physicalSector: 4096,
    } as const;
    const large = layoutOn('400 MiB', [fatPart('boot', '300 MiB', {}, { attributes: ['legacy boot'] })], {
      ...BIOS,
      medium,
      table: GPT_TABLE,
    });
    expect(starts(large)).toBe(false);
    expect(check(place(large)).find(({ rule }) => rule === 'boot/no-code-in-sector-0')!.sentence).toContain(
      'reads sectors of 512 bytes, and these have 4,096',
    );
  });
});

test('it is offered where sector 0 has no code, and then a volume that does not boot is told', () => {
  const before = layoutOn('64 MiB', slots(), { boots: ['bios'] });
  const [risk] = check(place(before));
  expect(risk).toMatchObject({ rule: 'boot/no-code-in-sector-0' });
  const [own] = risk!.remedies;
  expect(own!.label).toBe('Loess brings the code');
  const after = applyEdit(before, own!.edit);
  expect(after.machine).toEqual({ loaderFrom: 'own code', loader: 'active partition' });
  const rules = check(place(after)).map(({ rule }) => rule);
  expect(rules).toContain('boot/nothing-behind-the-code');
  expect(rules).not.toContain('boot/no-code-in-sector-0');
});
