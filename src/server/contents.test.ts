/** Contents on the server: taken in whole or not at all. */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { brokenOff, inPieces, renamed, tarOf, zipOf } from '@tests/archives';
import { madeUp } from '@tests/filled';
import { ownContext } from '@tests/own-context';
import { fatPart, layoutOn } from '@tests/samples';
import type { Context } from './context';
import { INTAKE_LIMIT } from './intake';
import { createLayout } from './layouts';
import { addArchive, addBlob, addFile, addFolder, changeTree, getTree, sweepStore } from './store';
import { storedPath } from './stored';

let context: Context;
const { context: opened, stored } = ownContext();
beforeEach(() => {
  context = opened();
});

const NOWHERE = { into: undefined, under: '' };
// A slow machine needs long for an archive of 100 MiB.
jest.setTimeout(60_000);

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
      { kind: 'file', path: 'BUOY07.CSV', size: 14, sha256: sha256(bytes), time: '2026-03-01T12:00:00' },
      { kind: 'file', path: 'logs/old/copy.csv', size: 14, sha256: sha256(bytes) },
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
    ])
      await expect(changeTree(context, first.sha256!, change)).rejects.toMatchObject({
        status: expect.any(Number) as number,
      });
    await expect(getTree(context, sha256('no tree'))).rejects.toMatchObject({ code: 'tree-unknown' });
  });

  test('what goes over the limit is refused at the piece that does, and nothing of it is kept', async () => {
    // A piece that only says how long it is: 64 GiB need not be sent for this.
    const much = { length: INTAKE_LIMIT + 1 } as Uint8Array;
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

  test('what no revision names goes after a day, and nothing that one names', async () => {
    const kept = await addFile(context, NOWHERE, { name: 'kept', time: undefined }, inPieces(Buffer.from('kept')));
    await addFile(context, NOWHERE, { name: 'lost', time: undefined }, inPieces(Buffer.from('lost')));
    await createLayout(context, layoutOn('64 MiB', [fatPart('a', 'rest', { files: kept.sha256! })]), 'Created');
    expect(await sweepStore(context)).toBe(0);
    expect(await sweepStore(context, Date.now() + 25 * 3600 * 1000)).toBe(2);
    expect(stored().sort()).toEqual([kept.sha256!, sha256('kept')].sort());
  });
});
