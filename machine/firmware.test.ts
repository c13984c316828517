/**
 * What real UEFI firmware makes of ESPs that Loess built: it finds them and starts the program
 * that the guest's kernel copied there; and neither of them changes a byte of a table.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { checkSurvey } from '@/core/findings/survey';
import type { Layout } from '@/core/layout/document';
import { place } from '@/core/placement/place';
import type { Placement } from '@/core/placement/placement';
import { writeImage } from '@/server/image-file';
import { copyLoader, drive, filesNamed, type GuestDisk, unpacked } from './guest';
import { surveyFile, tablesOf } from './tables';

/** What the program says when it runs. */
const SAYS = 'iPXE';
/** Longest time until it has said so. */
const START_LIMIT = 150_000;

const esp = (size: string, more: object = {}) => fatPart('esp', size, { label: 'ESP', ...more }, { role: 'esp' });
const on4096 = (exact: string): Partial<Layout> => ({
  medium: { kind: 'image', capacity: { exact }, logicalSector: 4096, physicalSector: 4096 },
});

const LAYOUTS: readonly (readonly [string, Layout])[] = [
  ['GPT, 512-byte sectors, FAT32', layoutOn('120 MiB', [esp('100 MiB'), part('system', 'rest')], { table: GPT_TABLE })],
  [
    'GPT, 4096-byte sectors, FAT32',
    layoutOn('320 MiB', [esp('300 MiB'), part('system', 'rest')], { table: GPT_TABLE, ...on4096('320 MiB') }),
  ],
  [
    'GPT, the ESP behind another, FAT16',
    layoutOn('120 MiB', [part('system', '40 MiB'), esp('rest', { kind: 'fat16' })], { table: GPT_TABLE }),
  ],
  ['MBR, FAT32', layoutOn('120 MiB', [esp('rest')])],
];

interface Case {
  readonly placement: Placement;
  readonly disk: GuestDisk;
  readonly tables: string;
}

let folder: string;
let cases: Case[];

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-firmware-'));
  cases = [];
  for (const [i, [, layout]] of LAYOUTS.entries()) {
    const placement = place(layout);
    const file = path.join(folder, `${i}.img`);
    await writeImage({ placement, path: file, signal: new AbortController().signal, onProgress: () => undefined });
    const disk = { file, sectorSize: placement.sectorSize, keeps: true };
    cases.push({ placement, disk, tables: tablesOf(file, placement) });
  }
  const loader = filesNamed(unpacked('loader', 'ipxe'), (name) => name === 'ipxe.efi')[0]!;
  const report = await copyLoader(
    cases.map((one) => one.disk),
    loader,
  );
  const copied = report.disks.map((disk) => disk.partitions.filter((one) => one.facts.copied === 'yes').length);
  expect(copied).toEqual(LAYOUTS.map(() => 1));
}, 6 * 60_000);

afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

/** Starts the firmware with one disk; resolves with what it said when the program has spoken. */
function boot(disk: GuestDisk): Promise<string> {
  const firmware = path.join(unpacked('firmware', 'ovmf'), 'usr', 'share', 'ovmf', 'OVMF.fd');
  const machine = ['-accel', 'tcg,thread=multi', '-m', '256', '-display', 'none', '-nodefaults', '-no-reboot'];
  const args = [...machine, '-bios', firmware, '-serial', 'stdio', ...drive(disk, 0)];
  return new Promise((resolve, reject) => {
    const child = spawn('qemu-system-x86_64', args, { stdio: ['pipe', 'pipe', 'pipe'] });
    let said = '';
    const timer = setTimeout(() => child.kill('SIGKILL'), START_LIMIT);
    child.stdout.on('data', (chunk: Buffer) => {
      said += chunk.toString('latin1');
      if (said.includes(SAYS)) child.kill('SIGTERM');
    });
    child.on('error', reject);
    child.on('close', () => {
      clearTimeout(timer);
      resolve(said);
    });
  });
}

describe.each(LAYOUTS.map(([name], i) => ({ name, i })))('$name', ({ i }) => {
  test(
    'the firmware starts what was copied, and the table is as it was',
    async () => {
      const { placement, disk, tables } = cases[i]!;
      expect(tablesOf(disk.file, placement)).toBe(tables);
      expect(await boot(disk)).toContain(SAYS);
      expect(tablesOf(disk.file, placement)).toBe(tables);
    },
    START_LIMIT + 30_000,
  );

  test('after all that the survey finds nothing wrong, and FSInfo equals the count', async () => {
    const { disk } = cases[i]!;
    const survey = await surveyFile(disk);
    expect(checkSurvey(survey)).toEqual([]);
    const inside = survey.partitions.map((one) => one.inside).find((one) => one.kind === 'fat');
    if (inside?.kind !== 'fat') throw new Error('no volume');
    expect(inside.fat.root.entries).toBe(1);
    expect(inside.fat.freeCounted).toBeLessThan(inside.fat.shape.clusters - 1);
    if (inside.fat.shape.variant === 32) expect(inside.fat.freeTold).toBe(inside.fat.freeCounted);
  });
});
