/** Documents of version 1, read as the newest one. */
import { validateLayout } from './validate';
import { upgraded } from './upgrade';

const SHA = 'a'.repeat(64);
const UUID = '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5';
const stored = { sha256: SHA, name: 'tide.bin', size: 9 };

const partition = (more: object) => ({
  id: 'a',
  kind: 'partition',
  name: 'A',
  role: 'data',
  size: '1 GiB',
  ...more,
});

const old = (slots: readonly object[], more: object = {}) => ({
  format: 'loess-layout',
  version: 1,
  name: 'Tide gauge',
  date: '2026-03-01T12:00:00',
  medium: { kind: 'image', capacity: { exact: '4 GiB' }, logicalSector: 512, physicalSector: 512 },
  boots: [],
  table: { kind: 'mbr', signature: '6d617272' },
  slots,
  ...more,
});

function contentOf(slot: object): unknown {
  const read = validateLayout(old([slot]));
  if (!read.ok) throw new Error(JSON.stringify(read.error));
  expect(read.value.version).toBe(2);
  const [only] = read.value.slots;
  return only?.kind === 'partition' ? only.content : undefined;
}

test.each<[string, object, unknown]>([
  [
    'FAT of a variant',
    { fileSystem: { kind: 'fat16', label: 'TIDE', volumeId: '7A1D-10C5', padding: 'none' } },
    { kind: 'fat', variant: 16, label: 'TIDE', volumeId: '7A1D-10C5', padding: 'none' },
  ],
  [
    'FAT by its size',
    { fileSystem: { kind: 'fat', volumeId: '7A1D-10C5', files: SHA } },
    { kind: 'fat', volumeId: '7A1D-10C5', files: SHA },
  ],
  ['exFAT', { content: { kind: 'exfat', volumeId: '7A1D-10C5' } }, { kind: 'exfat', volumeId: '7A1D-10C5' }],
  ['swap', { role: 'swap', content: { kind: 'swap', uuid: UUID } }, { kind: 'swap', uuid: UUID }],
  [
    'an image',
    { content: { kind: 'image', ...stored, hidden: 'corrected' } },
    { kind: 'image', ...stored, hidden: 'corrected' },
  ],
  ['a file', { content: { kind: 'blob', ...stored } }, { kind: 'file', ...stored }],
  ['zeros', { content: { kind: 'overwritten' } }, { kind: 'zeros' }],
  ['nothing', {}, undefined],
  ['a swap partition that was left to its system', { role: 'swap' }, { kind: 'left', expects: 'swap' }],
])('%s', (_, more, content) => expect(contentOf(partition(more))).toEqual(content));

test('everything else stays as it was, and what was read is not changed', () => {
  const document = old([
    { id: 'r', kind: 'raw', name: 'R', at: '8 KiB', length: '32 KiB', blob: stored },
    { id: 'f', kind: 'free', name: 'F', size: '1 MiB' },
    partition({ mount: '/srv', active: true, fileSystem: { kind: 'fat32', volumeId: '7A1D-10C5' } }),
  ]);
  const before = JSON.stringify(document);
  const after = upgraded(document) as typeof document;
  expect(JSON.stringify(document)).toBe(before);
  expect(after.slots.slice(0, 2)).toEqual(document.slots.slice(0, 2));
  expect(after.slots[2]).toEqual(
    partition({ mount: '/srv', active: true, content: { kind: 'fat', variant: 32, volumeId: '7A1D-10C5' } }),
  );
  expect({ ...after, version: 1, slots: [] }).toEqual({ ...document, slots: [] });
});

test('the limit of an old BIOS and the ids of rules have other names now', () => {
  const machine = { memory: '8 GiB', biosWall: '137 GB' };
  const accepted = { rule: 'boot/two-esps', slot: 'a', sentence: 'There are two.', reason: 'Both are used.' };
  const read = validateLayout(
    old([partition({})], { machine, accepted: [accepted, { ...accepted, rule: 'fat/not-padded' }] }),
  );
  expect(read).toMatchObject({
    ok: true,
    value: {
      machine: { memory: '8 GiB', biosLimit: '137 GB' },
      accepted: [{ ...accepted, rule: 'esp/two' }, { rule: 'fat/not-padded' }],
    },
  });
  expect(read.ok && 'biosWall' in read.value.machine!).toBe(false);
  expect(validateLayout(old([], { machine: { biosWall: '1 MB' } }))).toMatchObject({
    ok: false,
    error: [{ path: 'machine.biosWall' }],
  });
});

test.each<[string, object, string, RegExp]>([
  [
    'a field of the file system',
    { fileSystem: { kind: 'fat32', volumeId: '12' } },
    'slots[0].fileSystem.volumeId',
    /eight/,
  ],
  [
    'its cluster',
    { fileSystem: { kind: 'fat32', volumeId: '7A1D-10C5', cluster: '3 KiB' } },
    'slots[0].fileSystem.cluster',
    /power of two/,
  ],
  ['an unknown kind', { fileSystem: { kind: 'fat64', volumeId: '7A1D-10C5' } }, 'slots[0].fileSystem.kind', /"fat"/],
  ['an unknown content', { content: { kind: 'tape' } }, 'slots[0].content.kind', /"exfat"/],
  [
    'a file system and a content',
    { fileSystem: { kind: 'fat32', volumeId: '7A1D-10C5' }, content: { kind: 'zeros' } },
    'slots[0].fileSystem',
    /./,
  ],
])('%s is refused with the path that the document has', (_, more, path, message) => {
  const read = validateLayout(old([partition(more)]));
  expect(read).toMatchObject({ ok: false, error: [{ path }] });
  expect(!read.ok && read.error[0]!.message).toMatch(message);
});

test.each([null, 7, 'x', [], {}, { version: 1 }, { format: 'loess-layout', version: 1, slots: 'none' }])(
  '%j is no older document, and is refused like any other',
  (value) => {
    expect(() => upgraded(value)).not.toThrow();
    expect(validateLayout(value).ok).toBe(false);
  },
);

test('a document of the newest version comes back as the same object', () => {
  const document = old([], { version: 2 });
  expect(upgraded(document)).toBe(document);
});

test('in the newest version a swap partition of which nothing is said is made swap, with an id that follows from the disk', () => {
  const read = validateLayout(old([partition({ role: 'swap' })], { version: 2 }));
  const again = validateLayout(old([partition({ role: 'swap' })], { version: 2 }));
  const other = validateLayout(
    old([partition({ role: 'swap' })], { version: 2, table: { kind: 'mbr', signature: '6d617273' } }),
  );
  expect(read).toMatchObject({ ok: true, value: { slots: [{ content: { kind: 'swap' } }] } });
  expect(again).toEqual(read);
  expect(JSON.stringify(other)).not.toBe(JSON.stringify(read));
});
