/** What every kind of content must answer, asked of each in turn. */
import { writerOf } from './writers';
import { readdirSync } from 'node:fs';
import { layoutOn, part } from '@tests/samples';
import { endOf } from '../bytes/extents';
import { place } from '../placement/place';
import { isEntered, isPartition } from '../placement/placement';
import { siteIn } from '../placement/site';
import { accountOf } from '../placement/volumes';
import type { EXPECTED } from './left/expected';
import { isFillable, kindOf, KINDS } from './kinds';
import { type Content, contentShape } from './shapes';

const SHA = 'b'.repeat(64);
const stored = { sha256: SHA, name: 'tide.bin', size: 70_000 };

/** A content of each kind. */
const SAMPLES: readonly Content[] = [
  { kind: 'fat', variant: 16, volumeId: '7A1D-10C5', label: 'TIDE' },
  { kind: 'exfat', volumeId: '7A1D-10C6', label: 'Wide tide' },
  { kind: 'ext', version: 'ext4', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d6', label: 'root' },
  { kind: 'swap', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', label: 'swap-a' },
  { kind: 'image', ...stored },
  { kind: 'file', ...stored },
  { kind: 'zeros' },
  { kind: 'left', expects: 'ext4' },
];

test('each folder is a kind, and each kind a folder', () => {
  const folders = readdirSync('src/core/filesystems', { withFileTypes: true }).filter((one) => one.isDirectory());
  expect(Object.keys(KINDS).sort()).toEqual(folders.map((one) => one.name).sort());
  expect(SAMPLES.map((one) => one.kind).sort()).toEqual(Object.keys(KINDS).sort());
});

describe.each(SAMPLES.map((content) => [content.kind, content] as const))('%s', (kind, content) => {
  const placement = place(layoutOn('200 MiB', [part('a', '64 MiB', { content })]));
  const placed = placement.placed.filter(isPartition)[0]!;
  const site = siteIn(placed, placement);

  test('it has the name of its place in the list, and the document takes it', () => {
    expect(kindOf(content).kind).toBe(kind);
    expect(contentShape.parse(content)).toEqual(content);
  });

  test('its ranges are ascending, lie in the partition, and do not overlap', () => {
    const ranges = writerOf(content).ranges(content, site, placed.made, { tree: [], facts: undefined });
    let at = placed.span.start;
    for (const { extent } of ranges) {
      expect(extent.offset).toBeGreaterThanOrEqual(at);
      at = endOf(extent);
    }
    expect(at).toBeLessThanOrEqual(placed.span.end);
  });

  test('its account is the partition, to the byte', () => {
    const { parts } = accountOf(placed, placement);
    expect(parts.reduce((sum, { bytes }) => sum + bytes, 0)).toBe(placed.span.end - placed.span.start);
  });

  test('files go into it exactly where it has room for them and its names have rules', () => {
    const { names, room } = writerOf(content);
    const { geometry } = kindOf(content);
    expect(isFillable(content)).toBe(names !== undefined);
    expect([room !== undefined, geometry !== undefined]).toEqual([names !== undefined, names !== undefined]);
  });

  test('an id that it has can be replaced by one that follows from a text, and by nothing else', () => {
    const { identity } = kindOf(content);
    if (!identity) return;
    const other = identity.with(content, identity.from('another'));
    expect(identity.of(other)).not.toBe(identity.of(content));
    expect(identity.from('another')).toBe(identity.of(other));
    expect(identity.with(other, identity.of(content))).toEqual(content);
    expect(contentShape.safeParse(other).success).toBe(true);
  });
});

test.each<[(typeof EXPECTED)[number], string, string]>([
  ['ext4', '83', '0fc63daf-8483-4772-8e79-3d69d8477de4'],
  ['xfs', '83', '0fc63daf-8483-4772-8e79-3d69d8477de4'],
  ['btrfs', '83', '0fc63daf-8483-4772-8e79-3d69d8477de4'],
  ['ntfs', '07', 'ebd0a0a2-b9e5-4433-87c0-68b6b72699c7'],
  ['ufs', 'A5', '516e7cb6-6ecf-11d6-8ff8-00022d09712b'],
  ['swap', '82', '0657fd6d-a4ab-43c4-84e5-0933c84b4f4f'],
  ['lvm', '8E', 'e6d6d379-f507-44c2-a23c-238f2a3df928'],
  ['luks', 'E8', 'ca7d7ccb-63ed-4c53-861c-1742536059cc'],
  ['raid', 'FD', 'a19d880f-05fc-4d3b-a006-743f0f84911e'],
])('what a system will make of its partition decides the type: %s', (expects, mbr, gpt) => {
  const typeOn = (table: Parameters<typeof layoutOn>[2]) =>
    place(layoutOn('1 GiB', [part('a', 'rest', { content: { kind: 'left', expects } })], table)).placed.filter(
      isEntered,
    )[0]!.entry.type;
  expect(typeOn({})).toBe(mbr);
  expect(typeOn({ table: { kind: 'gpt', diskId: '6d617272-616d-4c0a-8d05-7469646573aa' } })).toBe(gpt);
});
