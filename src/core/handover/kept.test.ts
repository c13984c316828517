/** What is handed over of a medium that holds something: kept partitions are named by what was found, and made by nobody. */
import { GPT_TABLE, layoutOn, part, raw } from '@tests/samples';
import type { FoundMedium, PartitionSlot, Slot } from '../layout/document';
import { keptSlot } from '../layout/kept';
import { mountLines } from '../naming/mount-table';
import { place } from '../placement/place';
import { MIB } from '../quantity/units';
import { leftToDo } from './left-to-do';

const FOUND: FoundMedium = {
  size: 100 * MIB,
  table: 'gpt',
  id: GPT_TABLE.diskId,
  partitions: [
    {
      number: 1,
      at: 8192,
      sectors: 40_960,
      type: '0fc63daf-8483-4772-8e79-3d69d8477de4',
      id: '0badcafe-0000-4000-8000-000000000001',
      name: 'Archive',
      inside: { kind: 'ext4', label: 'ARCHIVE', id: '7a1d0000-616d-4c0a-8d05-0000000000b1' },
    },
    {
      number: 2,
      at: 65_536,
      sectors: 2048,
      type: 'e3c9e316-0b5c-4db8-817d-f92df00215ae',
      id: '0badcafe-0000-4000-8000-000000000002',
    },
  ],
};

const kept = (n: number, more: Partial<PartitionSlot> = {}): Slot => ({
  ...keptSlot(FOUND.partitions[n]!, 512, 'gpt'),
  ...more,
});
const placement = place(
  layoutOn(
    '100 MiB',
    [
      { ...(raw('l', '17 KiB', '100 KiB') as Extract<Slot, { kind: 'raw' }>), keeps: true },
      kept(0, { mount: '/srv' }),
      kept(1),
      part('n', 'rest', { name: 'New', mount: '/home' }),
    ],
    { table: GPT_TABLE, found: FOUND },
  ),
);

test('a kept volume is mounted by the id that was found', () => {
  const lines = mountLines([{ name: 'Kept', placement }]);
  const line = lines.find(({ of }) => of.placed.slot.name === 'Archive')!;
  expect(line.source.text).toBe('UUID=7a1d0000-616d-4c0a-8d05-0000000000b1');
  expect(line.source.why).toContain('found on the medium');
  expect(line.type).toMatchObject({ text: 'ext4', why: expect.stringContaining('found on the medium') as string });
});

test('nobody is told to make anything in what is kept, nor to write over it', () => {
  const texts = leftToDo(placement).map(({ what }) => what);
  expect(texts.filter((text) => text.startsWith('Make '))).toEqual([expect.stringContaining('on New')]);
  expect(texts.filter((text) => text.startsWith('Write what'))).toEqual([]);
});
