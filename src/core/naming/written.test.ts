/** Files that Loess writes: what they say, in every copy, read back from built volumes of every kind. */
import { createHash } from 'node:crypto';
import { FoundImage } from '@tests/found-image';
import { mediumOf } from '@tests/machine-media';
import { fatPart, GPT_TABLE, layoutOn, part } from '@tests/samples';
import { openVolume } from '../filesystems/readers';
import { checkExt } from '../filesystems/ext/check/check';
import { madeIn } from '../filesystems/made-files';
import { type Contents, NO_CONTENTS } from '../filesystems/supplied';
import type { Content } from '../filesystems/shapes';
import { contentOf } from '../filesystems/volume';
import { treeOfSlot } from '../layout/contents';
import type { Layout, PartitionSlot, Slot } from '../layout/document';
import { copyOf } from '../layout/series';
import { isPartition } from '../placement/placement';
import { mountTablePath, placeWritten } from './written';

const UUIDS = ['0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', '1f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d6'] as const;
const ext = (uuid: string): Content => ({ kind: 'ext', version: 'ext4', uuid });
const system = (id: string, more: Partial<PartitionSlot>) =>
  part(id, '96 MiB', { role: 'system', content: ext(UUIDS[id === 'a' ? 0 : 1]), writes: ['mount table'], ...more });

/** Two systems beside each other, and a boot partition that starts either. */
const PAIR: Layout = layoutOn(
  '512 MiB',
  [
    fatPart('boot', '64 MiB', {}, { role: 'boot', mount: '/boot', writes: ['boot entries'] }),
    system('a', { mount: '/' }),
    system('b', {}),
    part('log', 'rest', { mount: '/srv/tides', content: { kind: 'exfat', volumeId: '7A1D-10C6' } }),
  ],
  {
    boots: ['board'],
    table: GPT_TABLE,
    entries: [
      { id: 'a', title: 'System A', root: 'a', kernel: '/Image' },
      { id: 'b', title: 'System B', root: 'b', kernel: '/Image' },
    ],
  },
);

function made(layout: Layout, id: string, contents: Contents = NO_CONTENTS): Record<string, string> {
  const placement = placeWritten(layout, contents);
  const slot = layout.slots.find((one) => one.id === id)!;
  const files = madeIn(treeOfSlot(slot, placement.contents)!);
  return Object.fromEntries(files.map(({ path, made: bytes }) => [path, new TextDecoder().decode(bytes)]));
}

const idOf = (layout: Layout, id: string) => placeWritten(layout).placed.find(({ slot }) => slot.id === id)!.entry!.id;

test('each of two systems has itself as its root', () => {
  const [a, b] = [made(PAIR, 'a')['etc/fstab']!, made(PAIR, 'b')['etc/fstab']!];
  const roots = (text: string) => text.split('\n').filter((line) => / {2}\/ {2,}/.test(line));
  expect(roots(a)).toEqual([expect.stringContaining(`UUID=${UUIDS[0]}`)]);
  expect(roots(b)).toEqual([expect.stringContaining(`UUID=${UUIDS[1]}`)]);
  expect(b).not.toContain(UUIDS[0]);
  for (const text of [a, b]) expect(text).toContain('/srv/tides');
});

test('what lies beside a system that the layout mounts nowhere is no other medium', () => {
  const slots = PAIR.slots.map((slot) => (slot.id === 'a' ? system('a', {}) : slot));
  const card = { ...PAIR, medium: { ...PAIR.medium, kind: 'card' as const }, slots };
  expect(made(card, 'b')['etc/fstab']).not.toContain('nofail');
});

test('entries lie on their partition, and name what the table has', () => {
  const files = made(PAIR, 'boot');
  // The partition is of the type of the specification too: whatever starts from it finds its form.
  expect(Object.keys(files)).toEqual(['extlinux/extlinux.conf', 'loader/entries/a.conf', 'loader/entries/b.conf']);
  const text = files['extlinux/extlinux.conf'];
  expect(text).toContain(`root=PARTUUID=${idOf(PAIR, 'a')} `);
  expect(text).toContain(`root=PARTUUID=${idOf(PAIR, 'b')} `);
});

test('copies of a series name their own ids', () => {
  const copy = copyOf(PAIR, 3);
  expect(made(copy, 'boot')['extlinux/extlinux.conf']).toContain(`root=PARTUUID=${idOf(copy, 'a')} `);
  expect(made(copy, 'a')['etc/fstab']).not.toContain(UUIDS[0]);
  expect(made(copy, 'boot')).not.toEqual(made(PAIR, 'boot'));
});

test('the sums of what is made are right, and it is made of the same bytes each time', () => {
  const placement = placeWritten(PAIR);
  const tree = treeOfSlot(PAIR.slots[1]!, placement.contents)!;
  for (const file of madeIn(tree)) {
    expect(createHash('sha256').update(file.made!).digest('hex')).toBe(file.sha256);
    expect(file).toMatchObject({ size: file.made!.length, time: PAIR.date });
  }
  expect(treeOfSlot(PAIR.slots[1]!, placeWritten(PAIR).contents)).toBe(tree);
});

test.each<[string, Content]>([
  ['FAT32', { kind: 'fat', variant: 32, volumeId: '7A1D-10C5' }],
  ['FAT16', { kind: 'fat', variant: 16, volumeId: '7A1D-10C5' }],
  ['exFAT', { kind: 'exfat', volumeId: '7A1D-10C5' }],
])('a built %s volume has them', async (_, content) => {
  const slots: Slot[] = [
    part('boot', '64 MiB', { content, role: 'boot', writes: ['boot entries'] }),
    ...PAIR.slots.slice(1),
  ];
  const layout = { ...PAIR, slots };
  const placement = placeWritten(layout);
  const image = FoundImage.ofPlacement(placement);
  const { span } = placement.placed[0]!;
  const volume = (await openVolume(image, span.start))!;
  const { entries: root } = await volume.list();
  const { entries } = await volume.list(root.find(({ name }) => name === 'extlinux'));
  const file = entries.find(({ name }) => name === 'extlinux.conf')!;
  const parts: Uint8Array[] = [];
  for await (const piece of contentOf(volume, image, file)) parts.push(piece);
  expect(Buffer.concat(parts).toString()).toBe(made(layout, 'boot')['extlinux/extlinux.conf']);
});

test('a built ext volume has them, and the checker finds no fault', async () => {
  const placement = placeWritten(PAIR);
  const image = FoundImage.ofPlacement(placement);
  for (const one of placement.placed.filter(isPartition).filter(({ slot }) => slot.role === 'system')) {
    const { faults, entries, volume } = await checkExt(image, one.span.start, one.span.end - one.span.start);
    expect(faults).toEqual([]);
    const { inode } = entries.find(({ path }) => path === 'etc/fstab')!;
    const at = one.span.start + inode.runs[0]!.physical * volume!.block;
    const text = new TextDecoder().decode(await image.read(at, inode.size));
    expect(text).toBe(made(PAIR, one.slot.id)['etc/fstab']);
  }
});

test.each([
  [{ mount: '/' }, 'etc/fstab'],
  [{ mount: '/etc' }, 'fstab'],
  [{ mount: '/boot' }, undefined],
  [{ role: 'system' as const }, 'etc/fstab'],
  [{}, undefined],
])('the mount table of %j lies at %s', (more, path) => {
  expect(mountTablePath(part('p', '1 GiB', more))).toBe(path);
});

test('a medium without a table, and one without entries, are written what they have', () => {
  expect(made({ ...PAIR, entries: undefined } as unknown as Layout, 'boot')).toEqual({});
  expect(mediumOf(PAIR).placement.contents.made).toBeUndefined();
});
