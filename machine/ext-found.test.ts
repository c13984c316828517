/**
 * Ext volumes that nobody here made, out of Debian packages: a kernel shows every fact that we read, the checker finds nothing,
 * and repacked in four lengths they are mounted, show every fact, and are filled to the last block.
 */
import { execFileSync } from 'node:child_process';
import { linkSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { inMemory } from '@tests/filled';
import { cases } from '@tests/tier';
import { checkExt } from '@/core/filesystems/ext/check/check';
import { settled } from '@/core/filesystems/ext/replay/replay';
import type { FoundPartition } from '@/core/survey/found';
import { surveyMedium } from '@/core/survey/survey';
import { runRepacked } from './ext-repack';
import { entriesAmiss, withSource } from './ext-seen';
import { lookAt } from './guest';
import { filesNamed, unpacked } from './packages';

const PACKAGES = ['forensics-samples-ext2', 'forensics-samples-ext4'];
const WAYS = cases([0], [0, 1, 2, 3]);

let folder: string;
let files: { readonly file: string; readonly size: number }[];

/** The volume of the one partition that such an image has, in a file of its own. */
async function volumeIn(packed: string): Promise<{ file: string; size: number }> {
  const image = execFileSync('xz', ['--decompress', '--stdout', packed], { maxBuffer: 2 ** 30 });
  const { partitions, sectorSize } = await surveyMedium(inMemory(image), { sectorSize: 512 });
  expect(partitions).toMatchObject([{ inside: { kind: 'known' } }]);
  const [{ start, sectors }] = partitions as [FoundPartition];
  const file = path.join(folder, path.basename(packed, '.xz'));
  writeFileSync(file, image.subarray(start * sectorSize, (start + sectors) * sectorSize));
  return { file, size: sectors * sectorSize };
}

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'loess-ext-found-'));
  const packed = PACKAGES.flatMap((name) => filesNamed(unpacked(name, name), (file) => file.endsWith('.xz')));
  files = await Promise.all(packed.map(volumeIn));
});

afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('a kernel shows what we read of them, and the checker finds nothing', async () => {
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
});

test('repacked in four lengths, nothing is amiss', async () => {
  const all = files.flatMap(({ file, size }) =>
    WAYS.map((way) => {
      const cut = `${file}.${way}`;
      linkSync(file, cut);
      return { cut, size, way };
    }),
  );
  const amiss = await runRepacked(all);
  expect(all.map(({ cut }, i) => [path.basename(cut), amiss[i]])).toEqual(
    all.map(({ cut }) => [path.basename(cut), []]),
  );
});
