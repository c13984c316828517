import { chained, fatsOf, gpt, inBothFats, LAST, mbr, VOLUME } from '@tests/found-base';
import { extBases, manyGroups } from '@tests/hostile-ext';
import { MIB } from '@/core/quantity/units';
import type { FoundImage } from '@tests/found-image';
import { ledgerOf } from './ledger';
import { structureAt, structuresOf } from './structures';
import { surveyMedium } from './survey';

const survey = (image: FoundImage) => surveyMedium(image, { sectorSize: 512 });

describe('the ledger', () => {
  const open = async (image: FoundImage, sector: number) => {
    const structures = structuresOf(await survey(image));
    return ledgerOf(await image.read(sector * 512, 512), sector, structureAt(structures, sector));
  };
  const value = (ledger: Awaited<ReturnType<typeof open>>, group: string, name: string) =>
    ledger.groups.find((one) => one.title === group)?.fields.find((one) => one.name === name);

  test('decodes each structure by the record that writes it, with offsets in the sector', async () => {
    const zero = await open(mbr(), 0);
    expect(zero.what).toBe('Master boot record');
    expect(value(zero, 'Boot record', 'signature')).toMatchObject({
      offset: 440,
      length: 4,
      text: '1,835,102,834 (6D617272h)',
    });
    expect(value(zero, 'Entry 2', 'type')).toMatchObject({ offset: 462 + 4, text: '1: 01 FAT12' });
    expect(zero.groups.map((one) => one.title)).toContain('Entry 3: unused, 16 zero bytes');
    const header = await open(gpt(), 1);
    expect(value(header, 'GPT header', 'entries')!.text).toBe('128 (00000080h)');
    const entries = await open(gpt(), 2);
    expect(value(entries, 'Entry 2', 'name')).toMatchObject({ offset: 128 + 56, text: 'd' });
    expect(value(entries, 'Entry 1', 'type')!.text).toContain(': ESP');
    expect((await open(gpt(), 3)).groups).toEqual([{ title: '4 unused entries', fields: [] }]);
    expect((await open(gpt(), LAST)).what).toBe('GPT header, copy');
    expect((await open(chained(2), 65_536 + 4096)).what).toBe('Record of logical partition 6');
  });

  test('opens FAT volumes: boot sector, FSInfo, FAT entries in words, directory', async () => {
    const boot = await open(gpt(), 2048);
    expect(boot.what).toBe('Partition 1, e: boot sector');
    expect(value(boot, 'Boot sector', 'fats')!.text).toBe('2');
    expect((await open(gpt(), 2049)).what).toBe('Partition 1, e: FSInfo');
    const fat = fatsOf(gpt(), VOLUME).first / 512;
    const [group] = (await open(gpt(), fat)).groups;
    expect(group!.fields.map((one) => [one.name, one.text])).toEqual([
      ['FAT[0]', 'FFFFFF8h'],
      ['FAT[1]', 'FFFFFFFh'],
      ['cluster 2', 'end of a chain'],
      ['clusters 3 to 127', 'free'],
    ]);
    const packed = inBothFats(mbr(), 21 * MIB, 3, [0x03, 0xf0, 0xff]);
    const [small] = (await open(packed, fatsOf(packed, 21 * MIB).first / 512)).groups;
    expect(small!.fields.slice(0, 4).map((one) => [one.name, one.text])).toEqual([
      ['FAT[0]', 'FF8h'],
      ['FAT[1]', 'FFFh'],
      ['cluster 2', 'then cluster 3'],
      ['cluster 3', 'end of a chain'],
    ]);
    const root = (await survey(gpt())).partitions[0]!.inside;
    if (root.kind !== 'fat') throw new Error(root.kind);
    const directory = await open(gpt(), 2048 + root.fat.root.places[0]!.at / 512);
    expect(directory.groups.map((one) => one.title)).toEqual(['Entry', 'The directory ends here']);
  });

  test('opens ext volumes: both halves of the superblock, its copies, and every group', async () => {
    const [sound] = await extBases();
    const first = await open(sound!, 2);
    expect(first.what).toBe('Whole medium: superblock');
    expect(value(first, 'Superblock', 'magic')).toMatchObject({ offset: 56, text: '61,267 (EF53h)' });
    expect(value(first, 'Superblock', 'label')!.means).toBe('label');
    expect(value(first, 'Superblock', 'checksum')).toBeUndefined();
    const second = await open(sound!, 3);
    expect(value(second, 'Superblock', 'checksum')).toMatchObject({ offset: 508 });
    expect(value(second, 'Superblock', 'magic')).toBeUndefined();
    const groups = await open(sound!, 4);
    expect(groups.what).toBe('Whole medium: group descriptors');
    expect(groups.groups.map((one) => one.title)).toEqual(['Group 0']);
    expect(value(groups, 'Group 0', 'inodeTable')).toMatchObject({
      offset: 8,
      means: 'first block of the inode table',
    });
    const many = manyGroups();
    const copies = structuresOf(await survey(many)).filter((one) => one.what.includes('copy in group'));
    expect(copies.slice(0, 3).map(({ what, start }) => [what, start])).toEqual([
      ['Whole medium: superblock copy in group 1', 2 * 9],
      ['Whole medium: superblock copy in group 3', 2 * 25],
      ['Whole medium: superblock copy in group 5', 2 * 41],
    ]);
    expect((await open(many, 5)).groups.map((one) => one.title)).toEqual(
      Array.from({ length: 16 }, (_, i) => `Group ${16 + i}`),
    );
    const large = await surveyMedium(sound!, { sectorSize: 4096 });
    const bytes = await sound!.read(0, 4096);
    const whole = ledgerOf(bytes, 0, structureAt(structuresOf(large), 0));
    expect(value(whole, 'Superblock', 'magic')).toMatchObject({ offset: 1024 + 56 });
    expect(value(whole, 'Superblock', 'checksum')).toMatchObject({ offset: 1024 + 1020 });
  });

  test('what is not known is told as bytes, sixteen a line', async () => {
    const gap = await open(mbr().text(512, 'LOADER'), 1);
    expect(gap).toMatchObject({ what: 'Between partitions', groups: [] });
    expect(gap.lines).toHaveLength(32);
    expect(gap.lines[0]).toEqual({
      offset: 0,
      hex: '4C 4F 41 44 45 52 00 00 00 00 00 00 00 00 00 00',
      text: 'LOADER··········',
    });
  });
});
