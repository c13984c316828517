/** Findings about what a medium holds already: for each rule a layout that it speaks about, and one that it is silent about. */
import type { FoundEntry, FoundMedium, Layout, Slot } from '@/core/layout/document';
import { keptSlot } from '@/core/layout/kept';
import { GPT_TABLE, part } from '../samples';
import { type Case, image } from './case';

const BASIC = 'ebd0a0a2-b9e5-4433-87c0-68b6b72699c7';
const SURVEY: FoundEntry = {
  number: 1,
  at: 2048,
  sectors: 122_880,
  type: BASIC,
  id: '0badcafe-0000-4000-8000-000000000001',
  name: 'Survey',
  inside: { kind: 'NTFS', label: 'SURVEY', bytes: 62_914_560, used: 41_943_040 },
};
const PLAIN: FoundEntry = {
  number: 3,
  at: 131_072,
  sectors: 20_480,
  type: BASIC,
  id: '0badcafe-0000-4000-8000-000000000003',
  name: 'Notes',
};
const FOUND: FoundMedium = {
  size: 100 * 1024 * 1024,
  table: 'gpt',
  id: GPT_TABLE.diskId,
  partitions: [SURVEY, PLAIN],
};

const keep = (entry: FoundEntry, more: Partial<Slot> = {}): Slot =>
  ({ ...keptSlot(entry, 512, 'gpt'), ...more }) as Slot;
const kept = (slots: Slot[], more: Partial<Layout> = {}): Layout =>
  image('100 MiB', slots, { table: GPT_TABLE, found: FOUND, ...more });
const BOTH = [keep(SURVEY), keep(PLAIN)];
const good = kept(BOTH);

const LOGICAL: FoundMedium = {
  size: 100 * 1024 * 1024,
  table: 'mbr',
  id: '6d617272',
  container: { number: 2, at: 4096, sectors: 61_440 },
  partitions: [
    { number: 5, at: 6144, sectors: 20_480, type: '83', recordAt: 4096 },
    { number: 6, at: 30_720, sectors: 20_480, type: '83', recordAt: 28_672 },
  ],
};
const inChain = (numbers: readonly number[]): Layout =>
  image(
    '100 MiB',
    LOGICAL.partitions.filter(({ number }) => numbers.includes(number)).map((one) => keptSlot(one, 512, 'mbr')),
    { table: { kind: 'mbr', signature: '6d617272' }, found: LOGICAL },
  );

const ROOT: FoundEntry = {
  number: 4,
  at: 151_552,
  sectors: 53_248,
  type: '83',
  inside: { kind: 'ext4', label: 'gauge-root', bytes: 27_262_976, used: 4_194_304 },
};
const FOUND_ROOT: FoundMedium = { size: 100 * 1024 * 1024, table: 'mbr', id: '6d617272', partitions: [ROOT] };
/** An ext4 that reaches to the end of the medium. */
const root = (more: Partial<Slot>, table: Layout['table']): Layout =>
  image('100 MiB', [{ ...keptSlot(ROOT, 512, 'mbr'), ...more } as Slot], { table, found: FOUND_ROOT });
const MBR_FOUND = { kind: 'mbr', signature: '6d617272' } as const;

const BACK = ['Leave Survey as it was found'];

export const KEPT_CASES: readonly Case[] = [
  {
    rule: 'kept/another-medium',
    severity: 'stop',
    bad: image('101 MiB', BOTH, { table: GPT_TABLE, found: FOUND }),
    good,
    says: 'keeps partitions of a medium of 100 MiB ≈ 104.8 MB; the medium has 101 MiB',
    remedies: ['Use the medium that was found'],
  },
  {
    rule: 'kept/lost',
    severity: 'risk',
    bad: kept([keep(PLAIN)]),
    good,
    says: 'Partition 1 goes: 60 MiB ≈ 62.91 MB of NTFS, label SURVEY, 40 MiB ≈ 41.94 MB of it in use, will be lost.',
    remedies: ['Keep partition 1'],
  },
  {
    rule: 'kept/made-anew',
    severity: 'risk',
    bad: kept([keep(SURVEY, { content: { kind: 'zeros' } }), keep(PLAIN)]),
    good,
    says: 'will be lost: it is made anew.',
    remedies: BACK,
  },
  {
    rule: 'kept/cut-off',
    severity: 'risk',
    bad: kept([keep(SURVEY, { size: '50 MiB' }), keep(PLAIN)]),
    good: kept([keep(SURVEY, { size: '60 MiB' }), keep(PLAIN)]),
    says: '10 MiB ≈ 10.48 MB of the NTFS are cut off',
    remedies: BACK,
  },
  {
    rule: 'kept/ends-within',
    severity: 'note',
    bad: kept([{ ...keep({ ...SURVEY, sectors: 124_928 }), size: '60 MiB' } as Slot, keep(PLAIN)], {
      found: { ...FOUND, partitions: [{ ...SURVEY, sectors: 124_928 }, PLAIN] },
    }),
    good,
    says: 'By its own header the NTFS inside has 60 MiB ≈ 62.91 MB and ends within 60 MiB',
    remedies: BACK,
  },
  {
    rule: 'kept/room-behind',
    severity: 'note',
    bad: kept([keep(SURVEY, { size: '62 MiB' }), keep(PLAIN)]),
    good,
    says: 'The NTFS inside stays as large as it is; its own system can let it grow into the 2 MiB',
    remedies: BACK,
  },
  {
    rule: 'kept/laid-anew',
    severity: 'note',
    bad: root({ size: '20 MiB', repack: 'renumbered' }, MBR_FOUND),
    good: root({}, MBR_FOUND),
    says: 'The ext4 inside is checked, and all of it laid anew in 20 MiB ≈ 20.97 MB: every file stays as it is.',
    remedies: ['Leave gauge-root as it was found'],
  },
  {
    rule: 'kept/end-in-the-way',
    severity: 'stop',
    bad: root({}, GPT_TABLE),
    good: root({ size: '20 MiB', repack: 'renumbered' }, GPT_TABLE),
    says: 'reaches 16.5 KiB = 16.896 kB too far: that room at the end of the medium is wanted.',
    remedies: ['Lay it anew in ≈ 25.98 MiB ≈ 27.24 MB'],
  },
  {
    rule: 'kept/moved',
    severity: 'risk',
    bad: kept([keep(SURVEY, { at: '2 MiB' }), keep(PLAIN)]),
    good,
    says: '60 MiB ≈ 62.91 MB are copied from sector 2,048 to sector 4,096.',
    remedies: BACK,
  },
  {
    rule: 'kept/other-number',
    severity: 'risk',
    bad: inChain([6]),
    good: inChain([5, 6]),
    says: 'Partition 6 was partition 6 and becomes partition 5.',
    remedies: [],
  },
  {
    rule: 'kept/not-let-go',
    severity: 'risk',
    bad: kept([...BOTH, part('n', 'rest')], {
      found: {
        ...FOUND,
        partitions: [{ ...SURVEY, inside: { kind: 'FAT32', state: 'not cleanly unmounted' } }, PLAIN],
      },
    }),
    good: kept([...BOTH, part('n', 'rest')]),
    says: 'Survey holds FAT32 that was not cleanly unmounted.',
    remedies: [],
  },
  {
    rule: 'kept/another-table',
    severity: 'risk',
    bad: image(
      '100 MiB',
      BOTH.map((slot) => ({ ...slot, type: '07', partitionId: undefined }) as Slot),
      { table: { kind: 'mbr', signature: '6d617272' }, found: FOUND },
    ),
    good,
    says: 'The table becomes MBR, and was GPT: all 2 partitions get other ids',
    remedies: [],
  },
];
