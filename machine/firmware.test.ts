/**
 * What real firmware makes of media that Loess filled: UEFI lists the files of an ESP of each
 * variant and starts the program in it, and changes no byte; a BIOS starts supplied boot code.
 */
import { oneOf } from '@tests/tier';
import { withFiles } from '@/core/layout/contents';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, GPT_TABLE, layoutOn, NO_TABLE, part } from '@tests/samples';
import type { Layout, PartitionSlot, Slot } from '@/core/layout/document';
import type { Placement } from '@/core/placement/placement';
import { buildFilled, TestStore } from './fill';
import { runFirmware, runMachine } from './firmware';
import { loaderFile } from './packages';
import type { GuestDisk } from './guest';

/** What the program says when it runs. */
const SAYS = 'iPXE';

const on4096 = (exact: string): Partial<Layout> => ({
  medium: { kind: 'image', capacity: { exact }, logicalSector: 4096, physicalSector: 4096 },
});

/** The paths that are looked for in the list that the firmware's shell makes. */
const LISTED = ['BOOTX64.EFI', 'Station of the coast.cfg', 'BUOY07.CSV'];

/** How the firmware comes to the program: by the path that it tries itself, or through a script of its shell, which lists everything first. */
type Way = 'fallback' | 'script';

const SCRIPT = '@echo -off\r\nfs0:\r\nls -r\r\n\\EFI\\tide\\BOOTX64.EFI\r\n';

const layouts = (esp: (size: string, more?: object) => PartitionSlot): readonly (readonly [string, Layout, Way])[] => [
  [
    'GPT, 512-byte sectors, FAT32',
    layoutOn('120 MiB', [esp('100 MiB'), part('system', 'rest')], { table: GPT_TABLE }),
    'script',
  ],
  [
    'GPT, 4096-byte sectors, FAT32',
    layoutOn('320 MiB', [esp('300 MiB'), part('system', 'rest')], { table: GPT_TABLE, ...on4096('320 MiB') }),
    'fallback',
  ],
  [
    'GPT, the ESP behind another, FAT16',
    layoutOn('120 MiB', [part('system', '40 MiB'), esp('rest', { variant: 16 })], { table: GPT_TABLE }),
    'script',
  ],
  ['MBR, FAT32', layoutOn('120 MiB', [esp('rest')]), 'fallback'],
  ['MBR, FAT12', layoutOn('20 MiB', [esp('15 MiB', { variant: 12 })]), 'script'],
];

interface Case {
  readonly placement: Placement;
  readonly disk: GuestDisk;
  readonly image: string;
}

let folder: string;
let cases: Case[];

/** Layouts that this run starts from: every third, all in the second tier. */
const chosen = <T>(all: readonly T[]) => oneOf(3, all);
const NAMES = chosen(layouts((size) => part('esp', size))).map(([name]) => name);
let ways: Way[];

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-firmware-'));
  const store = new TestStore(path.join(folder, 'store'));
  const loader = readFileSync(loaderFile());
  const program = { kind: 'file', size: loader.length, sha256: store.shelf.add(loader) } as const;
  const script = { kind: 'file', size: SCRIPT.length, sha256: store.shelf.add(Buffer.from(SCRIPT)) } as const;
  const common = [
    store.shelf.file('Station of the coast.cfg', 3000),
    store.shelf.file('logs/of the year/BUOY07.CSV', 70_000),
  ];
  const trees: Readonly<Record<Way, string>> = {
    fallback: store.tree([...common, { ...program, path: 'EFI/BOOT/BOOTX64.EFI' }]),
    script: store.tree([...common, { ...program, path: 'EFI/tide/BOOTX64.EFI' }, { ...script, path: 'startup.nsh' }]),
  };
  const made = chosen(layouts((size, more) => fatPart('esp', size, { label: 'ESP', ...more }, { role: 'esp' })));
  ways = made.map(([, , way]) => way);
  cases = [];
  for (const [i, [, layout, way]] of made.entries()) {
    const file = path.join(folder, `${i}.img`);
    const slots = layout.slots.map((slot): Slot =>
      slot.kind === 'partition' ? { ...slot, ...withFiles(slot, trees[way]) } : slot,
    );
    const placement = await buildFilled({ ...layout, slots }, store, file);
    const disk = { file, sectorSize: placement.sectorSize, keeps: true };
    cases.push({ placement, disk, image: sumOf(file) });
  }
});

/** The checksum of a whole file. */
function sumOf(file: string): string {
  return createHash('sha256').update(readFileSync(file)).digest('hex');
}

afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

describe.each(NAMES.map((name, i) => ({ name, i })))('$name', ({ i }) => {
  test('the firmware lists the files, starts the program, and changes no byte', async () => {
    const { disk, image } = cases[i]!;
    const said = await runFirmware(disk, SAYS);
    expect(said).toContain(SAYS);
    if (ways[i] === 'script') for (const name of LISTED) expect(said).toContain(name);
    expect(sumOf(disk.file)).toBe(image);
  });
});

/**
 * Boot code of our own for these tests: says a word on the first serial port, and halts.
 * xor ax,ax; mov ds,ax; mov si,word; next: lodsb; test al,al; jz end; mov dx,3F8h; out dx,al; jmp next; end: hlt; jmp end
 */
function speaking(word: string, at: number): Uint8Array {
  const text = 0x7c00 + at + 21;
  const code = [0x31, 0xc0, 0x8e, 0xd8, 0xbe, text & 0xff, text >> 8, 0xac, 0x84, 0xc0, 0x74, 0x06, 0xba, 0xf8, 0x03];
  return Uint8Array.from([...code, 0xee, 0xeb, 0xf5, 0xf4, 0xeb, 0xfd, ...Buffer.from(`${word}\0`)]);
}

test.each<[string, (store: TestStore) => Layout]>([
  [
    'in sector 0, beside an MBR',
    (store) =>
      layoutOn('20 MiB', [part('a', 'rest', { active: true })], {
        table: { kind: 'mbr', signature: '6d617272', code: supplied(store, speaking('TIDE STARTS', 0)) },
      }),
  ],
  [
    'in sector 0, beside a GPT',
    (store) =>
      layoutOn('20 MiB', [part('a', 'rest')], {
        table: { ...GPT_TABLE, code: supplied(store, speaking('TIDE STARTS', 0)) },
      }),
  ],
  [
    'in a FAT16 volume without a table',
    (store) =>
      layoutOn('20 MiB', [fatPart('a', 'rest', { variant: 16, code: supplied(store, speaking('TIDE STARTS', 62)) })], {
        table: NO_TABLE,
      }),
  ],
  [
    'in a FAT32 volume without a table',
    (store) =>
      layoutOn('64 MiB', [fatPart('a', 'rest', { code: supplied(store, speaking('TIDE STARTS', 90)) })], {
        table: NO_TABLE,
      }),
  ],
])('a BIOS starts supplied boot code %s', async (_, layout) => {
  const store = new TestStore(path.join(folder, 'bios'));
  const file = path.join(folder, 'bios.img');
  rmSync(file, { force: true });
  await buildFilled(layout(store), store, file);
  const args = ['-m', '64', '-drive', `file=${file},format=raw,if=ide,snapshot=on`];
  const said = await runMachine(args, 'TIDE STARTS');
  expect(said).toContain('TIDE STARTS');
});

/** A file put into the store, as a document names it. */
function supplied(store: TestStore, bytes: Uint8Array) {
  return { sha256: store.put(bytes), name: 'code.bin', size: bytes.length };
}
