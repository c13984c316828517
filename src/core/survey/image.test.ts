/** What a supplied file is told to be. */
import { exfat, extAt, gpt, gpt4096, whole } from '@tests/found-base';
import { MIB } from '@/core/quantity/units';
import { FoundImage } from '@tests/found-image';
import { fatPart, layoutOn, NO_TABLE, noise, part } from '@tests/samples';
import { imageFacts } from './image';

const alone = (exact: string, slot: ReturnType<typeof part>) =>
  FoundImage.of(layoutOn(exact, [slot], { table: NO_TABLE }));

test('a FAT of each variant, with its label, id, sizes, and where it says that it lies', async () => {
  expect(await imageFacts(whole(16))).toMatchObject({
    name: 'FAT16',
    variant: 16,
    label: 'FLOAT',
    sectorSize: 512,
    bytes: 40 * MIB,
    hidden: 0,
    fatsAgree: true,
    used: 0,
  });
  const fat32 = await imageFacts(whole(32));
  expect(fat32).toMatchObject({ name: 'FAT32', variant: 32, backupSector: 6 });
  // The root directory is in use.
  expect(fat32!.used).toBe(512);
  const fat12 = alone('2 MiB', fatPart('a', 'rest', { variant: 12, label: 'GAUGE', volumeId: '7A1D-10C5' }));
  expect(await imageFacts(fat12)).toMatchObject({ name: 'FAT12', variant: 12, label: 'GAUGE', id: '7A1D-10C5' });
});

test('a header of one variant with the clusters of another is told as both', async () => {
  // Fewer sectors than FAT32 can have: by its clusters it is FAT16, and its fields stay those of FAT32.
  const image = whole(32).number(32, 40_000);
  expect(await imageFacts(image)).toMatchObject({ name: 'FAT16', variant: 16, headerOf: 32 });
  expect(await imageFacts(whole(32))).not.toHaveProperty('headerOf');
});

test('FATs that differ, and a place that is not this one', async () => {
  const image = whole(16);
  const reserved = image.bytes(14, 1)[0]! | (image.bytes(15, 1)[0]! << 8);
  image.flip(reserved * 512 + 40).number(28, 8192);
  expect(await imageFacts(image)).toMatchObject({ fatsAgree: false, hidden: 8192 });
});

test('exFAT, swap, and a file system that is only recognised', async () => {
  const volume = alone(
    '8 MiB',
    part('x', 'rest', { content: { kind: 'exfat', volumeId: '7A1D-10C5', label: 'Wide' } }),
  );
  const facts = await imageFacts(volume);
  expect(facts).toMatchObject({ name: 'exFAT', label: 'Wide', id: '7A1D-10C5', sectorSize: 512, bytes: 8 * MIB });
  expect(facts).not.toHaveProperty('hidden');
  const uuid = '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5';
  const swap = alone('8 MiB', part('s', 'rest', { role: 'swap', content: { kind: 'swap', uuid, label: 'TIDESWAP' } }));
  expect(await imageFacts(swap)).toMatchObject({ label: 'TIDESWAP', id: uuid });
  expect((await imageFacts(swap))!.name).toMatch(/^swap/);
  expect(await imageFacts(extAt(new FoundImage(8 * MIB), 0, 2048))).toMatchObject({ bytes: 8 * MIB });
});

test('what is no file system is not taken for one', async () => {
  expect(await imageFacts(new FoundImage(MIB))).toBeUndefined();
  expect(await imageFacts(new FoundImage(100))).toBeUndefined();
  expect(await imageFacts(new FoundImage(MIB).put(0, noise(MIB)))).toBeUndefined();
});

test('the image of a whole disk is told with its table, the sectors of a GPT, and its partitions', async () => {
  expect(await imageFacts(exfat())).toEqual({ name: 'disk with an MBR', disk: 'mbr', partitions: 1 });
  expect(await imageFacts(gpt())).toEqual({ name: 'disk with a GPT', disk: 'gpt', partitions: 3, sectorSize: 512 });
  expect(await imageFacts(gpt4096())).toMatchObject({ disk: 'gpt', sectorSize: 4096 });
  // Boot code is no table, and neither is one without a partition.
  const code = new FoundImage(MIB).put(0, noise(446)).put(446, [0x31]).number(510, 0xaa55, 2);
  expect(await imageFacts(code)).toBeUndefined();
  expect(await imageFacts(new FoundImage(MIB).number(510, 0xaa55, 2))).toBeUndefined();
});
