/** A BIOS starts what lies in a partition through our own code of sector 0; where it cannot, the screen says what is missing. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { assembled } from '@tests/assembler';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import type { Layout, PartitionSlot } from '@/core/layout/document';
import { writeLayout } from '@/core/layout/validate';
import { place } from '@/core/placement/place';
import { type BiosDisk, screenOf } from './bios';
import { imageWith, payload, type Puts, startOf, withPayload } from './bios-images';

let folder: string;
let number = 0;
beforeAll(() => (folder = mkdtempSync(path.join(tmpdir(), 'loess-bios-'))));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Builds a layout into the next image. */
async function imageOf(layout: Layout, put: Puts) {
  const file = path.join(folder, `${(number += 1)}.img`);
  return { file, placement: await imageWith(layout, file, put) };
}

const BIOS = { boots: ['bios'], machine: { loaderFrom: 'own code' } } as const;
const mbr = (exact: string, slots: PartitionSlot[]) => layoutOn(exact, slots, { ...BIOS, boots: ['bios'] });
const gpt = (exact: string, slots: PartitionSlot[], table: object = {}) =>
  layoutOn(exact, slots, { ...BIOS, boots: ['bios'], table: { ...GPT_TABLE, ...table } });
const hex = (n: number) => n.toString(16).toUpperCase().padStart(8, '0');

const SAID = ['Payload: drive', 'Press a key', 'Sector 0: '];

/** Starts the payload of a partition: it must have been given the first disk, and the entry of that partition. */
async function startsFrom(layout: Layout, id: string): Promise<void> {
  const { file, placement } = await imageOf(layout, withPayload(id));
  const screen = await screenOf({ file }, SAID);
  const first = startOf(placement, id);
  // An entry of 32 bits says as much of it as fits.
  expect(screen).toMatch(new RegExp(`Payload: drive ..80, from sector ${hex(first % 2 ** 32)}\\.`));
}

describe('beside an MBR', () => {
  const four = (active: string) =>
    ['a', 'b', 'c', 'd'].map((id) => part(id, '4 MiB', { ...(id === active && { active: true as const }) }));

  test.each(['a', 'b', 'c', 'd'])('the active partition %s is started, with its drive and entry', async (id) => {
    await startsFrom(mbr('40 MiB', four(id)), id);
  });

  test('one that begins behind what cylinders can say', async () => {
    const layout = mbr('10 GiB', [part('a', '1 MiB'), part('b', '4 MiB', { at: '9 GiB', active: true })]);
    expect(startOf(place(layout), 'b')).toBeGreaterThan(16_450_560);
    await startsFrom(layout, 'b');
  });

  test.each<[string, PartitionSlot[], string, Puts?]>([
    ['nothing is active', four('none'), 'no partition is marked active'],
    [
      'a logical partition is',
      [part('a', '4 MiB'), part('l', '4 MiB', { logical: true, active: true })],
      'no partition is marked active',
    ],
    ['two are', four('a'), 'two partitions are marked active', () => [[0, Buffer.of(0x80), 478]]],
    [
      'the container is',
      [part('a', '4 MiB'), part('l', '4 MiB', { logical: true })],
      'what is marked active is a container',
      () => [[0, Buffer.of(0x80), 462]],
    ],
    ['the partition has no boot sector', four('b'), 'the active partition has no boot code'],
  ])('says what is missing where %s', async (_, slots, sentence, put = () => []) => {
    const { file } = await imageOf(mbr('40 MiB', slots), put);
    expect(await screenOf({ file }, SAID)).toContain(`Sector 0: ${sentence}`);
  });

  test('says that it cannot be read', async () => {
    const { file, placement } = await imageOf(mbr('40 MiB', four('a')), withPayload('a'));
    const broken = brokenAt(startOf(placement, 'a'));
    expect(await screenOf({ file, broken }, SAID)).toContain('Sector 0: the active partition cannot be read');
  });

  test('says that a BIOS lacks the extended calls, as for floppies', async () => {
    const { file } = await imageOf(
      mbr('1440 KiB', [part('a', 'rest', { active: true, grain: '1 KiB' })]),
      withPayload('a'),
    );
    expect(await screenOf({ file, as: 'floppy' }, SAID)).toContain('Sector 0: this BIOS has no extended disk calls');
  });
});

/** A sector at which every reading fails. */
function brokenAt(sector: number): NonNullable<BiosDisk['broken']> {
  const conf = path.join(folder, `${(number += 1)}.conf`);
  writeFileSync(conf, `[inject-error]\nevent = "read_aio"\nerrno = "5"\nsector = "${sector}"\nonce = "off"\n`);
  return { sector, conf };
}

describe('beside a GPT', () => {
  const marked = (id: string, more: Partial<PartitionSlot> = {}) =>
    part(id, '4 MiB', { attributes: ['legacy boot'], ...more });

  test('the partition that is marked is started', async () => {
    await startsFrom(gpt('40 MiB', [part('a', '4 MiB'), part('b', '4 MiB'), marked('c')]), 'c');
  });

  test('the ninth entry, of an array that lies elsewhere', async () => {
    const before = 'abcdefgh'.split('').map((id) => part(id, '1 MiB'));
    await startsFrom(gpt('40 MiB', [...before, marked('z')], { entries: 200, array: '512 KiB' }), 'z');
  });

  test('one that begins beyond sector 2³²', async () => {
    const layout = gpt('2500 GB', [part('a', '4 MiB'), marked('far', { at: '2300 GB' })]);
    expect(startOf(place(layout), 'far')).toBeGreaterThan(2 ** 32);
    await startsFrom(layout, 'far');
  });

  test.each<[string, PartitionSlot[], string, Puts?]>([
    ['nothing is marked', [part('a', '4 MiB')], 'nothing is marked for BIOS'],
    ['there is no GPT', [marked('a')], 'no GPT behind it', () => [[1, Buffer.alloc(8)]]],
    ['the partition has no boot sector', [marked('a')], 'no boot code there'],
  ])('says what is missing where %s', async (_, slots, sentence, put = () => []) => {
    const { file } = await imageOf(gpt('40 MiB', slots), put);
    expect(await screenOf({ file }, SAID)).toContain(`Sector 0: ${sentence}`);
  });

  test.each(['header', 'array', 'partition'])('says that a sector cannot be read: the %s', async (what) => {
    const { file, placement } = await imageOf(gpt('40 MiB', [marked('a')]), withPayload('a'));
    const sector = { header: 1, array: 2, partition: startOf(placement, 'a') }[what]!;
    expect(await screenOf({ file, broken: brokenAt(sector) }, SAID)).toContain('Sector 0: a sector is unreadable');
  });

  test('says that a BIOS lacks the extended calls', async () => {
    const { file } = await imageOf(
      gpt('1440 KiB', [marked('a', { size: '512 KiB', grain: '1 KiB' })]),
      withPayload('a'),
    );
    expect(await screenOf({ file, as: 'floppy' }, SAID)).toContain('Sector 0: no extended disk calls');
  });
});

describe('FAT volumes', () => {
  const sizes = { 12: '8 MiB', 16: '32 MiB', 32: '64 MiB' } as const;

  test.each([12, 16, 32] as const)('FAT%i with boot code that a person supplied is started', async (variant) => {
    // Behind the fields of the header, as the handbook of the format has them.
    const at = variant === 32 ? 90 : 62;
    const own = path.join(folder, `fat${variant}`);
    execFileSync('mkdir', ['-p', own]);
    writeFileSync(path.join(own, 'code.bin'), assembled(payload, 0x7c00 + at));
    const layout = mbr('80 MiB', [
      fatPart('boot', sizes[variant], { variant }, { active: true, role: 'boot' }),
      part('rest', 'rest'),
    ]);
    const document = JSON.parse(writeLayout(layout)) as { slots: { content?: object }[]; machine: object };
    document.slots[0]!.content = { ...document.slots[0]!.content, code: { path: 'code.bin' } };
    document.machine = { loaderFrom: 'own code', loader: 'active partition' };
    writeFileSync(path.join(own, 'layout.json'), JSON.stringify(document));
    const file = path.join(own, 'disk.img');
    execFileSync(
      process.execPath,
      [path.resolve('bin/loess.mjs'), 'build', path.join(own, 'layout.json'), '--into', file],
      { stdio: 'pipe' },
    );
    expect(await screenOf({ file }, SAID)).toContain('Payload: drive ');
  });

  test.each([12, 16, 32] as const)('FAT%i without says that it does not boot', async (variant) => {
    const slots = [fatPart('boot', sizes[variant], { variant }, { active: true })];
    const { file } = await imageOf(mbr('80 MiB', slots), () => []);
    expect(await screenOf({ file }, SAID)).toContain('This volume does not boot. Press a key.');
  });
});
