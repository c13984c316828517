/** Contents on the server: built into volumes, browsed, and taken out again. */
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { buffer } from 'node:stream/consumers';
import { inPieces, tarOf } from '@tests/archives';
import { madeUp } from '@tests/filled';
import { ownContext } from '@tests/own-context';
import { fatPart, GPT_TABLE, layoutOn, part, raw } from '@tests/samples';
import type { Layout, RawSlot } from '@/core/layout/document';
import { listFolder, listSources, takeFromVolume, withVolumeFile } from './browsing';
import { finishedImage, getBuild, startBuild } from './builds';
import type { Context } from './context';
import { createLayout, saveRevision } from './layouts';
import { addBlob, addFile, addFolder } from './store';
import { storedPath } from '../files/stored';

// Builds that fail are told in the log.
beforeEach(() => jest.spyOn(console, 'error').mockImplementation(() => undefined));
afterEach(() => jest.restoreAllMocks());

let context: Context;
const { context: opened, stored } = ownContext();
beforeEach(() => {
  context = opened();
});

const NOWHERE = { into: undefined, under: '' };

const sha256 = (bytes: Uint8Array | string) => createHash('sha256').update(bytes).digest('hex');

/** Builds a layout and gives the image's bytes and the report. */
async function built(layout: Layout, copy = 0) {
  const { id, revision } = await createLayout(context, layout, 'Created').catch(async () => {
    throw new Error('not created');
  });
  const build = await startBuild(context, { layoutId: id, revision, copy });
  await context.buildQueue.idle();
  const view = await getBuild(context, build.id);
  if (view.state !== 'done') throw new Error(JSON.stringify(view.failure));
  const { path: file } = await finishedImage(context, build.id);
  return { id: build.id, layoutId: id, bytes: readFileSync(file), report: view.report! };
}

describe('built', () => {
  test('files of every kind of volume come back byte for byte, browsed in the image', async () => {
    const files = {
      'KERNEL.IMG': madeUp(700_001, 'k'),
      'conf/Station of the coast.cfg': madeUp(33, 's'),
      empty: new Uint8Array(0),
    };
    const tar = await tarOf(Object.entries(files).map(([name, content]) => ({ name, content: Buffer.from(content) })));
    const { sha256: tree } = await addFolder(context, NOWHERE, tar.length, inPieces(tar));
    const layout = layoutOn(
      '300 MiB',
      [
        fatPart('small', '2 MiB', { variant: 12, files: tree! }),
        fatPart('mid', '20 MiB', { variant: 16, files: tree!, label: 'MID' }),
        fatPart('large', '40 MiB', { files: tree!, label: 'LARGE', times: 'of the files' }),
        part('wide', '8 MiB', { content: { kind: 'exfat', volumeId: '7A1D-10C5', label: 'Wide tide', files: tree! } }),
        part('swap', '4 MiB', {
          role: 'swap',
          content: { kind: 'swap', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', label: 'TIDESWAP' },
        }),
      ],
      { table: GPT_TABLE },
    );
    const { id, report } = await built(layout);
    expect(report.comparisons.filter((one) => !one.agrees)).toEqual([]);
    expect(report.ranges.filter((one) => one.files).map((one) => [one.owner, one.what, one.files])).toEqual(
      ['small', 'mid', 'large', 'wide'].flatMap((owner) => [
        [owner, 'folders', 1],
        [owner, 'files', 2],
      ]),
    );
    expect(report.volumes).toEqual([
      { partition: '1', name: 'small' },
      { partition: '2', name: 'mid' },
      { partition: '3', name: 'large' },
      { partition: '4', name: 'wide' },
    ]);
    const of = `build:${id}`;
    for (const partition of ['1', '2', '3', '4']) {
      const { entries, kind } = await listFolder(context, { of, partition, path: '' });
      expect([kind, entries.map((one) => one.name)]).toEqual([
        ['', 'FAT12', 'FAT16', 'FAT32', 'exFAT'][Number(partition)],
        ['KERNEL.IMG', 'conf', 'empty'],
      ]);
      for (const [at, content] of Object.entries(files)) {
        const read = await withVolumeFile(context, { of, partition, path: at }, (_, bytes) => buffer(bytes));
        expect(sha256(read)).toBe(sha256(content));
      }
    }
    expect((await listSources(context)).map((one) => one.partition)).toEqual(['1', '2', '3', '4']);
    const taken = await takeFromVolume(
      context,
      { of, partition: '3', path: 'conf' },
      { into: undefined, under: 'from there' },
    );
    expect(taken.entries).toEqual(
      [
        {
          kind: 'file',
          path: 'from there/Station of the coast.cfg',
          size: 33,
          sha256: sha256(files['conf/Station of the coast.cfg']),
          crc32: 'c99c1afe',
          time: '2026-03-01T12:00:00',
          attributes: undefined,
        },
      ].map(({ attributes: _, ...one }) => one),
    );
    await expect(listFolder(context, { of, partition: '5', path: '' })).rejects.toMatchObject({
      code: 'nothing-to-browse',
    });
    await expect(listFolder(context, { of, partition: '1', path: 'nowhere' })).rejects.toMatchObject({
      code: 'path-unknown',
    });
    await expect(listFolder(context, { of, partition: '9', path: '' })).rejects.toMatchObject({
      code: 'partition-unknown',
    });
  });

  test('building again gives the same bytes; a copy has ids of its own, and the same again', async () => {
    const { sha256: tree } = await addFile(
      context,
      NOWHERE,
      { name: 'A', time: undefined },
      inPieces(madeUp(5000, 'a')),
    );
    const layout = layoutOn('40 MiB', [fatPart('a', 'rest', { files: tree! })]);
    const [first, again, copy, copyAgain] = [
      await built(layout),
      await built(layout),
      await built(layout, 7),
      await built(layout, 7),
    ];
    expect(first.bytes.equals(again.bytes)).toBe(true);
    expect(copy.bytes.equals(copyAgain.bytes)).toBe(true);
    expect(copy.bytes.subarray(440, 444)).not.toEqual(first.bytes.subarray(440, 444));
    const volume = first.bytes.readUInt32LE(454) * 512;
    expect(copy.bytes.readUInt32LE(volume + 67)).not.toBe(first.bytes.readUInt32LE(volume + 67));
    // Nothing but ids differs: signature, and the volume id in both boot sectors.
    for (const at of [440, volume + 67, volume + 6 * 512 + 67]) first.bytes.copy(copy.bytes, at, at, at + 4);
    expect(copy.bytes.equals(first.bytes)).toBe(true);
  });

  test('supplied code and files lie where they belong, to the byte, and nothing beside them', async () => {
    const code = await addBlob(context, 'code.bin', inPieces(madeUp(440, 'code')));
    const loader = await addBlob(context, 'loader.bin', inPieces(madeUp(30_001, 'loader')));
    const volumeCode = await addBlob(context, 'vbr.bin', inPieces(madeUp(420, 'vbr')));
    const core = await addBlob(context, 'core.img', inPieces(madeUp(25_000, 'core')));
    const named = ({ sha256: id, name, size }: typeof code) => ({ sha256: id, name, size });
    const layout = layoutOn(
      '80 MiB',
      [
        { ...raw('gap', '1 sector', '1 MiB'), length: '64 KiB', blob: named(loader) } as RawSlot,
        part('second', '1 MiB', { role: 'bios-boot', content: { kind: 'file', ...named(core) } }),
        fatPart('a', 'rest', { code: named(volumeCode) }),
      ],
      { table: { kind: 'mbr', signature: '6d617272', code: named(code) } },
    );
    const { bytes } = await built(layout);
    expect(bytes.subarray(0, 440).equals(Buffer.from(madeUp(440, 'code')))).toBe(true);
    expect(bytes.readUInt32LE(440)).toBe(0x6d617272);
    expect(bytes.readUInt16LE(510)).toBe(0xaa55);
    expect(bytes.subarray(512, 512 + 30_001).equals(Buffer.from(madeUp(30_001, 'loader')))).toBe(true);
    expect(bytes.subarray(512 + 30_001, 512 + 65_536).every((byte) => byte === 0)).toBe(true);
    const [second, volume] = [bytes.readUInt32LE(454) * 512, bytes.readUInt32LE(470) * 512];
    expect(bytes.subarray(second, second + 25_000).equals(Buffer.from(madeUp(25_000, 'core')))).toBe(true);
    expect(bytes.subarray(volume + 90, volume + 510).equals(Buffer.from(madeUp(420, 'vbr')))).toBe(true);
    expect(bytes.subarray(volume + 6 * 512 + 90, volume + 6 * 512 + 510).equals(Buffer.from(madeUp(420, 'vbr')))).toBe(
      true,
    );
  });

  test('a loader that begins inside sector 0 gives way to the table there, and only there', async () => {
    const bytesOfLoader = madeUp(9000, 'inside');
    const loader = await addBlob(context, 'u-boot.bin', inPieces(bytesOfLoader));
    const blob = { sha256: loader.sha256, name: loader.name, size: loader.size };
    const layout = layoutOn('80 MiB', [
      { ...(raw('start', '0', '440 B') as RawSlot), blob: { ...blob, take: 440 } },
      { ...(raw('rest', '1 sector', '512 KiB') as RawSlot), blob: { ...blob, from: 512 } },
      fatPart('a', 'rest'),
    ]);
    const { bytes } = await built(layout);
    expect(bytes.subarray(0, 440).equals(Buffer.from(bytesOfLoader.subarray(0, 440)))).toBe(true);
    expect(bytes.readUInt16LE(510)).toBe(0xaa55);
    expect(bytes.subarray(512, 9000).equals(Buffer.from(bytesOfLoader.subarray(512)))).toBe(true);
  });

  test('a prepared image is put in as it is, and its place corrected on request', async () => {
    const { sha256: tree } = await addFile(
      context,
      NOWHERE,
      { name: 'INSIDE.TXT', time: undefined },
      inPieces(madeUp(900, 'i')),
    );
    const image = (
      await built(
        layoutOn('40 MiB', [fatPart('a', 'rest', { files: tree!, label: 'PREPARED' })], {
          table: { kind: 'none' },
          grain: '1 sector',
        }),
      )
    ).bytes;
    const blob = await addBlob(context, 'prepared.img', inPieces(image, 1 << 20));
    expect(blob.image).toMatchObject({ name: 'FAT32', label: 'PREPARED', sectorSize: 512, hidden: 0, fatsAgree: true });
    const content = { kind: 'image', sha256: blob.sha256, name: blob.name, size: blob.size } as const;
    const layout = (more: object) =>
      layoutOn('100 MiB', [part('a', '50 MiB', { content: { ...content, ...more } })], { accepted: [] });
    await expect(built(layout({}))).rejects.toMatchObject({
      code: 'layout-has-risks',
      message: expect.stringContaining('begins at sector 0; in a it begins at 2,048') as string,
    });
    const { bytes, id } = await built(layout({ hidden: 'corrected' }));
    expect([bytes.readUInt32LE(2 ** 20 + 28), bytes.readUInt32LE(2 ** 20 + 6 * 512 + 28)]).toEqual([2048, 2048]);
    // But for these two fields it is the image, byte for byte.
    for (const at of [28, 6 * 512 + 28]) image.writeUInt32LE(2048, at);
    expect(bytes.subarray(2 ** 20, 2 ** 20 + image.length).equals(image)).toBe(true);
    const { entries } = await listFolder(context, { of: `build:${id}`, partition: '1', path: '' });
    expect(entries.map((one) => one.name)).toEqual(['INSIDE.TXT']);
  });

  test('content that has gone, or is shorter than it was, is a stop before anything is written', async () => {
    const tar = await tarOf([{ name: 'a', content: 'a'.repeat(100) }]);
    const { sha256: tree } = await addFolder(context, NOWHERE, tar.length, inPieces(tar));
    const layout = layoutOn('64 MiB', [fatPart('a', 'rest', { files: tree! })]);
    const { id, revision } = await createLayout(context, layout, 'Created');
    const file = storedPath(context.folder.store, sha256(tar));
    writeFileSync(file, 'short');
    await expect(startBuild(context, { layoutId: id, revision })).rejects.toMatchObject({
      code: 'layout-has-stops',
      message: expect.stringContaining('the archive with “a” has 5 bytes in store, and the list says 2,048') as string,
    });
    rmSync(file);
    await expect(startBuild(context, { layoutId: id, revision })).rejects.toMatchObject({
      message: expect.stringContaining('“a” is not stored here') as string,
    });
    const other = layoutOn('64 MiB', [fatPart('a', 'rest', { files: sha256('never') })]);
    const saved = await saveRevision(context, id, { base: revision, document: other, note: 'x' });
    await expect(startBuild(context, { layoutId: id, revision: saved.revision })).rejects.toMatchObject({
      code: 'layout-has-stops',
    });
    expect(readdirSync(context.folder.builds)).toEqual([]);
  });

  /** Another value in place of one byte of what is stored. */
  function flip(name: string, at: number): void {
    const file = storedPath(context.folder.store, name);
    const bytes = readFileSync(file);
    bytes[at]! ^= 1;
    writeFileSync(file, bytes);
  }

  test.each([
    ['a small file', 'small.bin', 5000],
    ['a file of many blocks', 'large.bin', 3_000_000],
  ])('one flipped byte in %s fails the build, and names the file', async (_, name, size) => {
    const content = Buffer.from(madeUp(size, name));
    const tar = await tarOf([
      { name: 'other.bin', content: Buffer.from(madeUp(700_000, 'o')) },
      { name, content },
    ]);
    const { sha256: tree } = await addFolder(context, NOWHERE, tar.length, inPieces(tar));
    const layout = layoutOn('64 MiB', [fatPart('a', 'rest', { files: tree! })]);
    await built(layout);
    const images = readdirSync(context.folder.builds).length;
    flip(sha256(tar), tar.indexOf(content) + size - 3);
    const { id, revision } = await createLayout(context, { ...layout, name: 'Flipped' }, 'Created');
    const build = await startBuild(context, { layoutId: id, revision });
    await context.buildQueue.idle();
    const { state, failure } = await getBuild(context, build.id);
    expect(state).toBe('failed');
    expect(failure!.code).toBe('content-gone');
    expect(failure!.sentence).toContain(`“${name}” of a are not those that were supplied`);
    expect(failure!.sentence).not.toContain(context.folder.root);
    expect(readdirSync(context.folder.builds)).toHaveLength(images);
  });

  test('a flipped byte in a prepared image, also in a part that is not copied, fails the build', async () => {
    const bytes = Buffer.from(madeUp(3 * 2 ** 20, 'loader'));
    const { sha256: name } = await addBlob(context, 'loader.bin', inPieces(bytes));
    const blob = { sha256: name, name: 'loader.bin', size: bytes.length, from: 512, take: 2000 };
    const layout = layoutOn('64 MiB', [{ ...(raw('l', '8 KiB', '1000 KiB') as RawSlot), blob }, part('a', 'rest')]);
    const { bytes: image } = await built(layout);
    expect(image.subarray(8192, 10_192).equals(bytes.subarray(512, 2512))).toBe(true);
    flip(name, 2 ** 20);
    const { id, revision } = await createLayout(context, { ...layout, name: 'Flipped' }, 'Created');
    const build = await startBuild(context, { layoutId: id, revision });
    await context.buildQueue.idle();
    expect(await getBuild(context, build.id)).toMatchObject({
      state: 'failed',
      failure: { code: 'content-gone', sentence: expect.stringContaining('the file for l') as string },
    });
  });

  test('boot code that was changed in store is a stop already', async () => {
    const bytes = Buffer.from(madeUp(440, 'code'));
    const { sha256: name } = await addBlob(context, 'code.bin', inPieces(bytes));
    const layout = layoutOn('64 MiB', [part('a', 'rest')], {
      table: { kind: 'mbr', signature: '6d617272', code: { sha256: name, name: 'code.bin', size: 440 } },
    });
    const { bytes: image } = await built(layout);
    expect(image.subarray(0, 440).equals(bytes)).toBe(true);
    expect(image.readUInt32LE(440)).toBe(0x6d617272);
    flip(name, 7);
    const { id, revision } = await createLayout(context, { ...layout, name: 'Flipped' }, 'Created');
    await expect(startBuild(context, { layoutId: id, revision })).rejects.toMatchObject({
      message: expect.stringContaining('has another sum') as string,
    });
  });

  test('a list of files that was changed in store is not believed', async () => {
    const { sha256: tree } = await addFile(context, NOWHERE, { name: 'A', time: undefined }, inPieces(madeUp(50, 'a')));
    const file = storedPath(context.folder.store, tree!);
    writeFileSync(file, readFileSync(file, 'utf8').replace('"path":"A"', '"path":"B"'));
    const layout = layoutOn('64 MiB', [fatPart('a', 'rest', { files: tree! })]);
    const { id, revision } = await createLayout(context, layout, 'Created');
    await expect(startBuild(context, { layoutId: id, revision })).rejects.toMatchObject({ code: 'layout-has-stops' });
  });
});

test('times of the store do not matter to the bytes', async () => {
  const { sha256: tree } = await addFile(context, NOWHERE, { name: 'A', time: undefined }, inPieces(madeUp(50, 'a')));
  const layout = layoutOn('64 MiB', [fatPart('a', 'rest', { files: tree! })]);
  const first = await built(layout);
  for (const name of stored()) utimesSync(storedPath(context.folder.store, name), 0, 0);
  expect((await built(layout)).bytes.equals(first.bytes)).toBe(true);
});
