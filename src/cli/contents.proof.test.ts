import { createHash } from 'node:crypto';
import fs, {
  chmodSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { tarOf, zipOf } from '@tests/archives';
import { XZ_TAR, ZSTD_TAR } from '@tests/compressed';
import { fatPart, layoutOn, part, raw } from '@tests/samples';
import { folderOfEachTest, loess } from '@tests/terminal';
import { readLayout } from '@/core/layout/validate';
import { EXIT } from './exit';

const { file, document, now } = folderOfEachTest();
const { SOURCE_DATE_EPOCH } = process.env;
afterEach(() => {
  delete process.env.SOURCE_DATE_EPOCH;
  if (SOURCE_DATE_EPOCH !== undefined) process.env.SOURCE_DATE_EPOCH = SOURCE_DATE_EPOCH;
});

const FILES = { 'A.TXT': 'hello from the coast', 'conf/b.cfg': 'id=7' };

/** Writes files below a folder, in the order given. */
function put(folder: string, files: Readonly<Record<string, string>>, time?: Date): string {
  for (const [name, text] of Object.entries(files)) {
    const place = path.join(file(folder), name);
    mkdirSync(path.dirname(place), { recursive: true });
    writeFileSync(place, text);
    if (time) utimesSync(place, time, time);
  }
  return file(folder);
}

const filled = (more: object = {}) => layoutOn('64 MiB', [fatPart('boot', 'rest', { label: 'GAUGE', ...more })]);

async function built(doc: string, ...args: string[]): Promise<string> {
  const image = file('out.img');
  const { exit, error } = await loess(['build', doc, '--into', image, '--replace', ...args]);
  expect([exit, error.split('\n').filter((line) => !line.startsWith('“'))]).toEqual([EXIT.done, ['']]);
  return createHash('sha256').update(readFileSync(image)).digest('hex');
}

/** The document with what it lacks, as `fill-in` writes it. */
async function filledIn(doc: string, ...args: string[]): Promise<string> {
  expect((await loess(['fill-in', doc, ...args])).exit).toBe(EXIT.done);
  return readFileSync(doc, 'utf8');
}

describe('what fills a slot comes from', () => {
  test('a folder, an archive of each kind, and a path beside the document: the same bytes', async () => {
    const doc = document(filled());
    const folder = put('files', FILES);
    const tar = await tarOf([
      { name: 'A.TXT', content: FILES['A.TXT'] },
      { name: 'conf/', type: 'directory' },
      { name: 'conf/b.cfg', content: FILES['conf/b.cfg'] },
    ]);
    const archives = {
      'f.tar': tar,
      'f.tgz': gzipSync(tar),
      'f.txz': XZ_TAR,
      'f.tzst': ZSTD_TAR,
      'f.zip': await zipOf(FILES),
    };
    const sums = [await built(doc, '--from', `boot=${folder}`)];
    for (const [name, bytes] of Object.entries(archives)) {
      writeFileSync(file(name), bytes);
      sums.push(await built(doc, '--from', `boot=${file(name)}`));
    }
    sums.push(await built(document(filled({ filesFrom: 'files' }), 'beside.json')));
    expect(new Set(sums).size).toBe(1);
    expect(readdirSync(now()).filter((name) => name.includes('part'))).toEqual([]);
  });

  test('one file, which lies in the root under its name', async () => {
    const folder = put('files', { 'KERNEL.IMG': 'kernel' });
    const one = await built(document(filled()), '--from', `boot=${path.join(folder, 'KERNEL.IMG')}`);
    expect(one).toBe(await built(document(filled()), '--from', `boot=${folder}`));
  });

  test('files for raw slots, for files and images, and for boot code, by their paths', async () => {
    writeFileSync(file('loader.bin'), Buffer.alloc(700, 0x4c));
    writeFileSync(file('code.bin'), Buffer.alloc(440, 0x43));
    const sum = (name: string) =>
      createHash('sha256')
        .update(readFileSync(file(name)))
        .digest('hex');
    const doc = file('paths.json');
    const layout = layoutOn('64 MiB', [
      raw('loader', '8 KiB', '64 KiB'),
      part('data', '1 MiB', { content: { kind: 'file', sha256: 'x', name: 'x', size: 1 } }),
    ]);
    const [loader, data] = layout.slots;
    const by = { path: 'loader.bin' };
    const value = {
      ...layout,
      table: { ...layout.table, code: { path: 'code.bin' } },
      slots: [
        { ...loader, blob: { ...by, from: 100, take: 512 } },
        { ...data, content: { kind: 'file', ...by } },
      ],
    };
    writeFileSync(doc, JSON.stringify(value));
    await built(doc);
    const image = readFileSync(file('out.img'));
    expect(image.subarray(0, 440).every((byte) => byte === 0x43)).toBe(true);
    expect(image.subarray(8192, 8192 + 512).every((byte) => byte === 0x4c)).toBe(true);
    expect([image[8192 + 512], image[2 ** 20 + 699]]).toEqual([0, 0x4c]);
    // And with the sums written in, the document needs no path any more for its reader to know them.
    const read = readLayout(await filledIn(doc));
    expect(read.ok && read.value).toMatchObject({
      table: { code: { sha256: sum('code.bin'), name: 'code.bin', size: 440, path: 'code.bin' } },
      slots: [{ blob: { sha256: sum('loader.bin'), size: 700, from: 100, take: 512 } }, { content: { size: 700 } }],
    });
  });
});

describe('the same bytes on every machine', () => {
  test('neither the order of a folder, nor times, nor modes that FAT has not', async () => {
    const doc = document(filled({ filesFrom: 'files' }));
    put('files', FILES, new Date('2026-03-01T00:00:00Z'));
    const sum = await built(doc);
    const text = await filledIn(doc);
    rmSync(file('files'), { recursive: true });
    put('files', Object.fromEntries(Object.entries(FILES).reverse()), new Date('2026-09-09T00:00:00Z'));
    chmodSync(file('files/A.TXT'), 0o700);
    expect(await built(doc)).toBe(sum);
    expect(await filledIn(doc)).toBe(text);
  });

  test('times of the files show where they are wanted, and no later than SOURCE_DATE_EPOCH', async () => {
    const doc = document(filled({ filesFrom: 'files', times: 'of the files' }));
    put('files', FILES, new Date('2026-03-01T00:00:00Z'));
    const early = await built(doc);
    put('files', FILES, new Date('2026-09-09T00:00:00Z'));
    const late = await built(doc);
    expect(late).not.toBe(early);
    process.env.SOURCE_DATE_EPOCH = String(Date.parse('2026-03-01T00:00:00Z') / 1000);
    expect(await built(doc)).not.toBe(late);
  });

  test('what nobody may write is read only, and that is told', async () => {
    put('files', FILES);
    chmodSync(file('files/A.TXT'), 0o444);
    const { error } = await loess(['check', document(filled({ filesFrom: 'files' }))]);
    expect(error).toBe('“files”: 1 file that nobody may write: marked read only.\n');
    // Ext keeps the mode as it is: nothing is to be told.
    const uuid = '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5';
    const content = { kind: 'ext', version: 'ext4', uuid, filesFrom: 'files' } as const;
    const ext = document(layoutOn('64 MiB', [part('root', 'rest', { content })]));
    expect((await loess(['check', ext])).error).toBe('');
  });
});

describe('sums in the document', () => {
  test('are written in, and hold: another file is refused until they are renewed', async () => {
    const doc = document(filled({ filesFrom: 'files' }));
    put('files', FILES);
    expect((await loess(['fill-in', doc, '--json'])).json()).toMatchObject({
      filled: [{ field: 'slots[0].content.files', value: expect.stringMatching(/^[0-9a-f]{64}$/) as string }],
    });
    expect((await loess(['fill-in', doc])).out).toBe('Nothing is missing.\n');
    put('files', { 'A.TXT': 'another' });
    for (const command of [['check'], ['place'], ['build', '--into', file('x.img')], ['fill-in']]) {
      const { exit, error } = await loess([command[0]!, doc, ...command.slice(1)]);
      expect(exit).toBe(EXIT.file);
      expect(error).toMatch(
        /^slots\[0\]\.content: “files” is not what the document names\.\n {2}The document says SHA-256 [0-9a-f]{64}; found is/,
      );
    }
    expect(existsSync(file('x.img'))).toBe(false);
    await filledIn(doc, '--renew');
    expect((await loess(['check', doc])).exit).toBe(EXIT.done);
  });

  test('also where the command line names the files', async () => {
    const doc = document(filled());
    const folder = put('files', FILES);
    expect(JSON.parse(await filledIn(doc, '--from', `boot=${folder}`))).toMatchObject({
      slots: [{ content: { files: expect.stringMatching(/^[0-9a-f]{64}$/) as string } }],
    });
    await built(doc, '--from', `boot=${folder}`);
    put('files', { more: '' });
    expect((await loess(['check', doc, '--from', `boot=${folder}`])).exit).toBe(EXIT.file);
    const both = document(filled({ filesFrom: 'files' }), 'both.json');
    expect(await loess(['fill-in', both, '--from', `boot=${folder}`])).toMatchObject({ exit: EXIT.usage });
  });

  test('ids, signature and date come in too, and what was written stays', async () => {
    const { date: _, ...rest } = filled();
    const slots = rest.slots.map(({ id: __, ...slot }) => ({ ...slot, content: { kind: 'fat', label: 'GAUGE' } }));
    writeFileSync(
      file('bare.json'),
      `// a gauge\n${JSON.stringify({ ...rest, table: { kind: 'mbr' }, slots: [...slots, ...slots] })}`,
    );
    const before = await loess(['check', file('bare.json')]);
    expect(before.exit).toBe(EXIT.document);
    expect(before.error).toContain(`loess fill-in ${file('bare.json')} writes what is missing.\n`);
    process.env.SOURCE_DATE_EPOCH = '1772366400';
    const text = await filledIn(file('bare.json'));
    expect(text.startsWith('// a gauge\n')).toBe(true);
    const read = JSON.parse(text.slice(text.indexOf('\n'))) as ReturnType<typeof filled>;
    expect(read).toMatchObject({
      date: '2026-03-01T12:00:00',
      table: { signature: expect.stringMatching(/^[0-9a-f]{8}$/) as string },
      slots: [{ id: 'boot' }, { id: 'boot-2' }],
    });
    expect(Object.keys(read.slots[0]!)[0]).toBe('id');
    expect((await loess(['fill-in', '-'], text)).out).toBe(text);
  });
});

describe('what is refused', () => {
  test('paths that lead out of the folder of the document, unless that is said', async () => {
    put('files', FILES);
    mkdirSync(file('docs'));
    symlinkSync('../files', file('docs/link'));
    for (const filesFrom of ['../files', file('files'), 'link']) {
      const doc = document(filled({ filesFrom }), 'docs/layout.json');
      const { exit, error } = await loess(['check', doc]);
      expect([exit, error]).toEqual([
        EXIT.file,
        `slots[0].content: “${filesFrom}” leads out of the folder of the document. Say --outside if that is meant.\n`,
      ]);
      expect((await loess(['check', doc, '--outside'])).exit).toBe(EXIT.done);
    }
  });

  test('links in a folder, unless they shall be left out; names that are none; nothing at all', async () => {
    put('files', FILES);
    symlinkSync('A.TXT', file('files/link'));
    const doc = document(filled({ filesFrom: 'files' }));
    const { exit, error } = await loess(['check', doc]);
    expect(exit).toBe(EXIT.file);
    expect(error).toBe(
      '“files”: “link” is a link, which these file systems do not have. Say --leave-out, or take them away.\n',
    );
    const without = await loess(['check', doc, '--leave-out']);
    expect([without.exit, without.error]).toEqual([
      EXIT.done,
      '“files”: left out: “link” is a link, which these file systems do not have.\n',
    ]);
    mkdirSync(file('nothing'));
    expect((await loess(['check', document(filled({ filesFrom: 'nothing' }))])).error).toMatch(
      /: There is no file in it/,
    );
    expect((await loess(['check', document(filled({ filesFrom: 'gone' }))])).error).toBe(
      '“gone”: there is no such file.\n',
    );
  });

  test('slots that are not there, or take nothing; calls that say nothing', async () => {
    const doc = document(layoutOn('64 MiB', [part('log', 'rest')]));
    for (const [from, sentence] of [
      ['log', /must be SLOT=PATH/],
      ['=x', /must be SLOT=PATH/],
      ['gone=x', /There is no slot “gone”\.\n {2}Its slots are log/],
      ['log=x', /Slot “log” takes no files/],
    ] as const)
      expect(await loess(['check', doc, '--from', from])).toMatchObject({
        exit: EXIT.usage,
        error: expect.stringMatching(sentence) as string,
      });
  });

  test('what the system refuses is said of the file, and a slot is filled once', async () => {
    put('files', FILES);
    const doc = document(filled());
    const gone = jest.spyOn(fs, 'createReadStream').mockImplementation(() => {
      throw Object.assign(new Error('x'), { code: 'EACCES', path: file('files/A.TXT') });
    });
    const refused = await loess(['check', doc, '--from', `boot=${file('files')}`]);
    gone.mockRestore();
    expect([refused.exit, refused.error]).toEqual([EXIT.file, `“${file('files/A.TXT')}”: it may not be opened.\n`]);
    const twice = await loess(['check', doc, '--from', `boot=${file('files')}`, '--from', `boot=${file('x')}`]);
    expect([twice.exit, twice.error]).toEqual([
      EXIT.usage,
      'Slot “boot” is filled twice; say --from once for each slot.\n',
    ]);
  });

  test('a folder that is no store', async () => {
    put('files', FILES);
    const doc = document(filled({ files: 'a'.repeat(64) }));
    expect(await loess(['check', doc, '--contents', file('files')])).toMatchObject({
      exit: EXIT.file,
      error: expect.stringMatching(/is no store of contents: contents lie in one under their SHA-256/) as string,
    });
    expect(await loess(['check', doc])).toMatchObject({
      exit: EXIT.stop,
      error: expect.stringMatching(/names 1 content by sums; say --contents where they lie/) as string,
    });
  });

  test('a document without sums by whoever does not see its files', () => {
    const read = readLayout(JSON.stringify(filled({ filesFrom: 'files' })));
    expect(read).toMatchObject({ ok: false, error: [{ path: 'slots[0].content' }] });
    const nothing = { ...layoutOn('64 MiB'), table: { kind: 'mbr', signature: '6d617272', code: { from: 1 } } };
    expect(readLayout(JSON.stringify(nothing))).toMatchObject({
      ok: false,
      error: ['sha256', 'name', 'size'].map((field) => ({ path: `table.code.${field}` })),
    });
  });
});
