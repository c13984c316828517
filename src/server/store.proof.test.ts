/** Contents on the server: taken in whole or not at all. */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { brokenOff, inPieces, renamed, tarOf, zipOf } from '@tests/archives';
import { madeUp } from '@tests/filled';
import { ownContext } from '@tests/own-context';
import type { Context } from './context';
import { UPLOAD_LIMIT } from '../files/uploaded';
import { addArchive, addBlob, addFile, addFolder, changeTree, getTree } from './store';
import { storedPath } from '../files/stored';

let context: Context;
const { context: opened, stored } = ownContext();
beforeEach(() => {
  context = opened();
});

const NOWHERE = { into: undefined, under: '' };
// A slow machine needs long for an archive of 100 MiB.

const TAKE_ALL = { leaveOut: false };
const sha256 = (bytes: Uint8Array | string) => createHash('sha256').update(bytes).digest('hex');

describe('taking in', () => {
  test('a file is stored once, by its content, and told with its size', async () => {
    const bytes = Buffer.from('gauge readings');
    const a = await addFile(context, NOWHERE, { name: 'BUOY07.CSV', time: '2026-03-01T12:00:00' }, inPieces(bytes, 3));
    const b = await addFile(
      context,
      { into: a.sha256!, under: 'logs/old' },
      { name: 'copy.csv', time: undefined },
      inPieces(bytes),
    );
    expect(b.entries).toEqual([
      {
        kind: 'file',
        path: 'BUOY07.CSV',
        size: 14,
        sha256: sha256(bytes),
        crc32: 'e4c11ca5',
        time: '2026-03-01T12:00:00',
      },
      { kind: 'file', path: 'logs/old/copy.csv', size: 14, sha256: sha256(bytes), crc32: 'e4c11ca5' },
    ]);
    expect(stored().sort()).toEqual([sha256(bytes), a.sha256!, b.sha256!].sort());
    expect(readFileSync(storedPath(context.folder.store, sha256(bytes)), 'utf8')).toBe('gauge readings');
    expect((await getTree(context, b.sha256!)).entries).toEqual(b.entries);
  });

  test.each<[string, (members: Record<string, string>) => Promise<Buffer>]>([
    ['tar', (files) => tarOf(Object.entries(files).map(([name, content]) => ({ name, content })))],
    [
      'tar within gzip',
      async (files) => gzipSync(await tarOf(Object.entries(files).map(([name, content]) => ({ name, content })))),
    ],
    ['zip', (files) => zipOf(files)],
  ])('a %s keeps names, times and order', async (_, make) => {
    const archive = await make({ 'EFI/BOOT/BOOTX64.EFI': 'loader', 'zulu.txt': 'z', 'Ölstand an der Küste.csv': 'ü' });
    const { entries, leftOut } = await addArchive(
      context,
      { into: undefined, under: 'here' },
      TAKE_ALL,
      inPieces(archive),
    );
    expect(leftOut).toEqual([]);
    expect(entries.map((one) => [one.path, one.time])).toEqual([
      ['here/EFI/BOOT/BOOTX64.EFI', '2026-03-01T12:00:00'],
      ['here/zulu.txt', '2026-03-01T12:00:00'],
      ['here/Ölstand an der Küste.csv', '2026-03-01T12:00:00'],
    ]);
  });

  test('a folder comes as a tar while it is sent', async () => {
    const tar = await tarOf([
      { name: 'a/', type: 'directory' },
      { name: 'a/b', content: 'b' },
    ]);
    const { entries } = await addFolder(context, NOWHERE, tar.length, inPieces(tar));
    expect(entries.map(({ kind, path: at }) => [kind, at])).toEqual([
      ['folder', 'a'],
      ['file', 'a/b'],
    ]);
  });

  const bad: readonly (readonly [string, () => Promise<Buffer>, string, RegExp])[] = [
    [
      'a path that leaves',
      () => tarOf([{ name: 'ok' }, { name: '../evil', content: 'x' }]),
      'archive-cannot-be-stored',
      /“\.\.\/evil” leaves the folder/,
    ],
    [
      'an absolute path',
      () => tarOf([{ name: '/etc/passwd', content: 'x' }]),
      'archive-cannot-be-stored',
      /“\/etc\/passwd” begins at the root/,
    ],
    [
      'a link that leaves',
      () => tarOf([{ name: 'l', type: 'symlink', linkname: '../../etc' }]),
      'archive-cannot-be-stored',
      /“l” is a link/,
    ],
    [
      'a hard link',
      () => tarOf([{ name: 'l', type: 'link', linkname: 'x' }]),
      'archive-cannot-be-stored',
      /second name/,
    ],
    ['a device', () => tarOf([{ name: 'sda', type: 'block-device' }]), 'archive-cannot-be-stored', /“sda” is a device/],
    ['a pipe', () => tarOf([{ name: 'p', type: 'fifo' }]), 'archive-cannot-be-stored', /is a pipe/],
    [
      'a zip whose path leaves',
      async () => renamed(await zipOf({ 'xx/evil': 'x' }), 'xx/evil', '../evil'),
      'archive-cannot-be-stored',
      /“\.\.\/evil” leaves/,
    ],
    [
      'a zip with an absolute path',
      async () => renamed(await zipOf({ 'xetc/pw': 'x' }), 'xetc/pw', '/etc/pw'),
      'archive-cannot-be-stored',
      /begins at the root/,
    ],
    ['a zip with a link', () => zipOf({ l: '../etc' }, 0o120777), 'archive-cannot-be-stored', /is a link/],
    [
      'a thousand times its size',
      async () => gzipSync(await tarOf([{ name: 'zeros', content: Buffer.alloc(100 * 2 ** 20) }]), { level: 9 }),
      'archive-unpacks-too-large',
      /more than 1000 times/,
    ],
    [
      'a thousand times its size behind its end',
      async () =>
        gzipSync(Buffer.concat([await tarOf([{ name: 'a', content: 'a' }]), Buffer.alloc(100 * 2 ** 20)]), {
          level: 9,
        }),
      'archive-unpacks-too-large',
      /more than 1000 times/,
    ],
    [
      'a torn end',
      async () => (await zipOf({ a: 'x'.repeat(5000) })).subarray(0, 60),
      'archive-damaged',
      /cannot be read/,
    ],
    [
      'torn gzip',
      async () => gzipSync(await tarOf([{ name: 'a', content: Buffer.from(madeUp(9000, 'a')) }])).subarray(0, 500),
      'archive-damaged',
      /cannot be read/,
    ],
    ['no archive at all', () => Promise.resolve(Buffer.from('just a text')), 'archive-unknown', /no tar archive/],
    ['nothing in it', () => tarOf([{ name: './', type: 'directory' }]), 'archive-is-empty', /no file/],
  ];

  const TEXT = 'GAUGE';
  const holed = (pax: Record<string, string>, content: string) =>
    tarOf([
      { name: 'plain', content: 'p' },
      { name: './GNUSparseFile.7/disk.img', content, pax },
    ]);
  const mapped = (map: readonly number[]) => `${map.join('\n')}\n`.padEnd(512, '\0');

  test.each<[string, () => Promise<Buffer>]>([
    [
      'with the map ahead of the data',
      () =>
        holed(
          {
            'GNU.sparse.major': '1',
            'GNU.sparse.minor': '0',
            'GNU.sparse.name': 'deep/disk.img',
            'GNU.sparse.realsize': '3000000',
          },
          mapped([2, 1000, 5, 2_999_995, 5]) + TEXT + TEXT,
        ),
    ],
    [
      'with the map in the header',
      () =>
        holed(
          { 'GNU.sparse.map': '1000,5,2999995,5', 'GNU.sparse.size': '3000000', 'GNU.sparse.name': 'deep/disk.img' },
          TEXT + TEXT,
        ),
    ],
  ])('a file with holes is taken whole, %s', async (_, make) => {
    const { entries } = await addArchive(context, NOWHERE, TAKE_ALL, inPieces(await make(), 700));
    expect(entries.map((one) => [one.path, 'size' in one && one.size])).toEqual([
      ['plain', 1],
      ['deep/disk.img', 3_000_000],
    ]);
    expect(entries[1]).toMatchObject({
      sha256: sha256(TEXT + TEXT),
      pieces: [
        [1000, 0, 5],
        [2_999_995, 5, 5],
      ],
    });
  });

  test.each<[string, Record<string, string>, string]>([
    ['a map that leaves the file', { 'GNU.sparse.map': '0,5,9,5', 'GNU.sparse.size': '10' }, TEXT + TEXT],
    ['a map that goes back', { 'GNU.sparse.map': '5,5,0,5', 'GNU.sparse.size': '10' }, TEXT + TEXT],
    ['data that ends too early', { 'GNU.sparse.map': '0,50', 'GNU.sparse.size': '90' }, TEXT],
    ['a map without an end', { 'GNU.sparse.major': '1', 'GNU.sparse.realsize': '9' }, '7\n1\n'],
    ['no length', { 'GNU.sparse.major': '1' }, mapped([0])],
    ['an old form', { 'GNU.sparse.size': '9', 'GNU.sparse.numblocks': '1' }, TEXT],
  ])('holes with %s make the archive a damaged one', async (_, pax, content) => {
    await expect(addArchive(context, NOWHERE, TAKE_ALL, inPieces(await holed(pax, content)))).rejects.toMatchObject({
      code: 'archive-damaged',
    });
    expect(stored()).toEqual([]);
  });

  test('holes cost nothing, however long they are', async () => {
    const empty = await holed({ 'GNU.sparse.map': '', 'GNU.sparse.size': String(2 ** 50) }, '');
    const { entries } = await addArchive(context, NOWHERE, TAKE_ALL, inPieces(empty));
    expect(entries[1]).toMatchObject({ size: 2 ** 50, pieces: [], sha256: sha256('') });
    expect(stored().length).toBeLessThanOrEqual(2);
  });

  test('a zip whose bytes have another sum than it says is refused', async () => {
    const zip = await zipOf({ 'a.txt': 'gauge readings', 'b.txt': 'more' });
    // The sums stand in the directory at the end.
    const at = zip.lastIndexOf(Buffer.from([0x50, 0x4b, 0x01, 0x02])) + 16;
    zip[at]! ^= 0x10;
    await expect(addArchive(context, NOWHERE, TAKE_ALL, inPieces(zip))).rejects.toMatchObject({
      code: 'archive-damaged',
      message: expect.stringMatching(
        /“b\.txt” has another sum than the archive says\. Nothing of it was kept\.$/,
      ) as string,
    });
  });

  test('a zip with a day that the calendar does not have gives a file without a time', async () => {
    const zip = await zipOf({ 'a.txt': 'a' });
    const directory = zip.lastIndexOf(Buffer.from([0x50, 0x4b, 0x01, 0x02]));
    zip.writeUInt16LE((40 << 9) | (15 << 5) | 31, directory + 14);
    // Nor in the field for exact times, which gets another name here.
    zip.writeUInt16LE(0x9999, zip.indexOf(Buffer.from([0x55, 0x54, 0x05, 0x00]), directory));
    const { entries } = await addArchive(context, NOWHERE, TAKE_ALL, inPieces(zip));
    expect(entries[0]!.time).toBeUndefined();
  });

  test('what disappears in favour of something else is told: in an archive, and among the files that are there', async () => {
    const archive = await tarOf([
      { name: 'a.txt', content: 'first' },
      { name: 'a.txt', content: 'second' },
      { name: 'log', content: 'a file' },
      { name: 'log/inside.txt', content: 'in a folder of that name' },
    ]);
    await expect(addArchive(context, NOWHERE, TAKE_ALL, inPieces(archive))).rejects.toMatchObject({
      code: 'archive-cannot-be-stored',
      message: expect.stringContaining(
        '“a.txt” stands in it twice; the later one counts; “log/inside.txt” lies in “log”, which is a file in this archive',
      ) as string,
    });
    const {
      entries,
      leftOut,
      sha256: tree,
    } = await addArchive(context, NOWHERE, { leaveOut: true }, inPieces(archive));
    expect(entries.map((one) => one.path)).toEqual(['a.txt', 'log']);
    expect((entries[0] as { sha256: string }).sha256).toBe(sha256('second'));
    expect(leftOut).toHaveLength(2);
    const again = await addFile(
      context,
      { into: tree!, under: '' },
      { name: 'a.txt', time: undefined },
      inPieces(Buffer.from('third')),
    );
    expect(again.replaced).toEqual(['a.txt']);
    const same = await addFile(
      context,
      { into: again.sha256!, under: '' },
      { name: 'a.txt', time: undefined },
      inPieces(Buffer.from('third')),
    );
    expect(same.replaced).toBeUndefined();
  });

  test.each(bad)('an archive with %s is refused, and nothing of it is kept', async (_, make, code, sentence) => {
    const archive = await make();
    await expect(addArchive(context, NOWHERE, TAKE_ALL, inPieces(archive, 65_536))).rejects.toMatchObject({
      code,
      message: expect.stringMatching(sentence) as string,
    });
    expect(stored()).toEqual([]);
  });

  test('what cannot be stored is left out when asked, and told', async () => {
    const tar = await tarOf([
      { name: 'good', content: 'g' },
      { name: '../evil', content: 'x' },
      { name: 'l', type: 'symlink', linkname: 'good' },
    ]);
    const { entries, leftOut } = await addArchive(context, NOWHERE, { leaveOut: true }, inPieces(tar));
    expect(entries.map((one) => one.path)).toEqual(['good']);
    expect(leftOut.map((one) => one.path)).toEqual(['../evil', 'l']);
    expect(stored()).toHaveLength(2);
  });

  test.each([
    ['a file', (body: AsyncIterable<Uint8Array>) => addFile(context, NOWHERE, { name: 'a', time: undefined }, body)],
    ['an archive', (body: AsyncIterable<Uint8Array>) => addArchive(context, NOWHERE, TAKE_ALL, body)],
    ['a folder', (body: AsyncIterable<Uint8Array>) => addFolder(context, NOWHERE, 1e6, body)],
    ['a supplied file', (body: AsyncIterable<Uint8Array>) => addBlob(context, 'u-boot.bin', body)],
  ])('%s that breaks off leaves nothing', async (_, send) => {
    const tar = await tarOf([
      { name: 'a', content: 'x'.repeat(3000) },
      { name: 'b', content: 'y'.repeat(60_000) },
    ]);
    await expect(send(brokenOff(tar, 9000))).rejects.toThrow();
    expect(stored()).toEqual([]);
  });

  test('trees are changed by path; the old one stays', async () => {
    const tar = await tarOf(['a/x', 'a/y', 'b'].map((name) => ({ name, content: name })));
    const first = await addFolder(context, NOWHERE, tar.length, inPieces(tar));
    const paths = async (change: Parameters<typeof changeTree>[2]) =>
      (await changeTree(context, first.sha256!, change)).entries.map((one) => one.path);
    expect(await paths({ do: 'remove', path: 'a' })).toEqual(['b']);
    expect(await paths({ do: 'rename', path: 'a', to: 'c/d' })).toEqual(['c/d/x', 'c/d/y', 'b']);
    expect(await paths({ do: 'move', path: 'b', before: 'a' })).toEqual(['b', 'a/x', 'a/y']);
    expect(await paths({ do: 'folder', path: 'new' })).toEqual(['a/x', 'a/y', 'b', 'new']);
    expect(await paths({ do: 'mend', paths: ['a/x', 'a', 'b'], names: ['z', 'c', 'd'] })).toEqual(['c/z', 'c/y', 'd']);
    expect(await paths({ do: 'mend', paths: ['a/x', 'b'] })).toEqual(['a/y']);
    expect((await getTree(context, first.sha256!)).entries).toHaveLength(3);
    const nothing = await changeTree(
      context,
      (await changeTree(context, first.sha256!, { do: 'remove', path: 'a' })).sha256!,
      { do: 'remove', path: 'b' },
    );
    expect(nothing).toEqual({ sha256: null, entries: [], leftOut: [] });
    for (const change of [
      { do: 'remove', path: 'zz' } as const,
      { do: 'rename', path: 'a', to: 'b' } as const,
      { do: 'rename', path: 'a', to: 'a/in' } as const,
      { do: 'rename', path: 'b', to: '../b' } as const,
      { do: 'folder', path: 'a' } as const,
      { do: 'mend', paths: ['a', 'zz'] } as const,
      { do: 'mend', paths: ['a'], names: ['b'] } as const,
      { do: 'mend', paths: ['a/x', 'a/y'], names: ['z', 'z'] } as const,
      { do: 'mend', paths: ['a/x'], names: [] } as const,
      { do: 'mend', paths: ['a/x'], names: ['p/q'] } as const,
      { do: 'mend', paths: ['a/x'], names: ['..'] } as const,
    ])
      await expect(changeTree(context, first.sha256!, change)).rejects.toMatchObject({
        status: expect.any(Number) as number,
      });
    await expect(getTree(context, sha256('no tree'))).rejects.toMatchObject({ code: 'tree-unknown' });
  });

  test('what goes over the limit is refused at the piece that does, and nothing of it is kept', async () => {
    // A piece that only says how long it is: 64 GiB need not be sent for this.
    const much = { length: UPLOAD_LIMIT + 1 } as Uint8Array;
    const body = async function* () {
      yield* inPieces(Buffer.from('the beginning of it'), 4);
      yield much;
    };
    const sends = [
      addFile(context, NOWHERE, { name: 'a', time: undefined }, body()),
      addArchive(context, NOWHERE, TAKE_ALL, body()),
      addBlob(context, 'a', body()),
    ];
    for (const one of await Promise.allSettled(sends))
      expect(one).toMatchObject({ status: 'rejected', reason: { code: 'upload-too-large', status: 413 } });
    expect(stored()).toEqual([]);
  });

  test('many uploads at once are all stored', async () => {
    const send = (n: number) =>
      addFile(context, NOWHERE, { name: `${n}`, time: undefined }, inPieces(Buffer.from(`content ${n}`), 3));
    const trees = await Promise.all(Array.from({ length: 12 }, (_, n) => send(n)));
    expect(new Set(trees.map((one) => one.sha256)).size).toBe(12);
    expect(stored()).toHaveLength(24);
  });

  test('a supplied file is no tree, whatever it holds', async () => {
    for (const content of [
      '',
      '{}',
      '{"format":"loess-tree",',
      '{"format":"loess-tree","entries":7}',
      'x'.repeat(5000),
    ]) {
      const { sha256: name } = await addBlob(context, 'a', inPieces(Buffer.from(content)));
      await expect(getTree(context, name)).rejects.toMatchObject({ code: 'tree-unknown' });
    }
  });
});
