/**
 * Ext volumes that nobody here made, out of Debian packages: a kernel shows every fact that we read, the checker finds nothing,
 * and repacked in four lengths they are mounted, show every fact, and are filled to the last block.
 */
import { execFileSync } from 'node:child_process';
import { closeSync, linkSync, mkdtempSync, openSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { checkExt } from '@/core/filesystems/ext/check/check';
import { settled } from '@/core/filesystems/ext/replay/replay';
import { runRepacked } from './ext-repack';
import { entriesAmiss, withSource } from './ext-seen';
import { filesNamed, lookAt, unpacked } from './guest';

const PACKAGES = ['forensics-samples-ext2', 'forensics-samples-ext4'];
const WAYS = [0, 1, 2, 3];

let folder: string;
let files: { readonly file: string; readonly size: number }[];

beforeAll(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-ext-found-'));
  files = PACKAGES.flatMap((name) => filesNamed(unpacked(name, name), (file) => file.endsWith('.xz'))).map((packed) => {
    const file = path.join(folder, path.basename(packed, '.xz'));
    const out = openSync(file, 'wx');
    execFileSync('xz', ['--decompress', '--stdout', packed], { stdio: ['ignore', out, 'inherit'] });
    closeSync(out);
    return { file, size: statSync(file).size };
  });
}, 5 * 60_000);

afterAll(() => rmSync(folder, { recursive: true, force: true }));

test(
  'a kernel shows what we read of them, and the checker finds nothing',
  async () => {
    expect(files).toHaveLength(PACKAGES.length);
    const { disks } = await lookAt(files.map(({ file }) => ({ file, sectorSize: 512 as const, work: 'ln' })));
    for (const [i, { file, size }] of files.entries()) {
      const seen = disks[i]!.partitions[0]!;
      expect(seen.facts).toMatchObject({ mounted: 'yes' });
      expect(seen.entries.length).toBeGreaterThan(10);
      await withSource(file, size, async (source) => {
        const found = await settled(source, 0);
        if (!found || 'refused' in found) throw new Error(found?.refused ?? 'no ext');
        const { faults, entries } = await checkExt(found.view, 0, size);
        expect([file, faults]).toEqual([file, []]);
        const { block } = found.inodes.head;
        expect([file, await entriesAmiss(found.view, block, entries, seen, found.replay)]).toEqual([file, []]);
      });
    }
  },
  5 * 60_000,
);

test(
  'repacked in four lengths, nothing is amiss',
  async () => {
    const cases = files.flatMap(({ file, size }) =>
      WAYS.map((way) => {
        const cut = `${file}.${way}`;
        linkSync(file, cut);
        return { cut, size, way };
      }),
    );
    const amiss = await runRepacked(cases);
    expect(cases.map(({ cut }, i) => [path.basename(cut), amiss[i]])).toEqual(
      cases.map(({ cut }) => [path.basename(cut), []]),
    );
  },
  9 * 60_000,
);
