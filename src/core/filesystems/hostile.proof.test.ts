/**
 * Hostile volumes: filled ones with bytes changed in headers, FATs and directories, walked to the
 * end. Whatever they say, a walk ends soon, reads nothing outside of the source, and fails in one way only.
 */
import { MIB } from '../quantity/units';
import { anyTree, inMemory, overNoise, Shelf } from '@tests/filled';
import { cases } from '@tests/tier';
import type { Extent } from '../bytes/extents';
import { exfatGeometry } from './exfat/geometry';
import { formatExfat } from './exfat/format';
import { formatFat } from './fat/format';
import { fatGeometry } from './fat/geometry';
import type { Variant } from './fat/variants';
import { openVolume } from './readers';
import { BrokenChain, walk } from './volume';
import fc from 'fast-check';

const DATE = '2026-03-01T12:00:00';
/** Most entries that are walked, and most pieces of one file: a mutant may have folders without end. */
const MOST_ENTRIES = 3000;
const MOST_PIECES = 200;

const shelf = new Shelf();
const [tree] = fc.sample(anyTree(shelf, 6000), { numRuns: 1 });

function fat(variant: Variant, bytes: number): Uint8Array {
  const found = fatGeometry({ sectorSize: 512, start: 0, sectors: bytes / 512, unit: 4096, variant, cluster: 512 });
  if (!found.ok) throw new Error(found.error.reason);
  return laid(bytes, formatFat(found.value, { label: 'TIDE', volumeId: 1, date: DATE }, tree));
}

function exfat(bytes: number): Uint8Array {
  const found = exfatGeometry({ sectorSize: 512, start: 0, sectors: bytes / 512, unit: 4096, cluster: 512 });
  if (!found.ok) throw new Error(found.error.reason);
  const identity = { label: 'Tide', serial: 1, date: DATE, keepsTimes: false };
  return laid(bytes, formatExfat(found.value, identity, tree));
}

function laid(bytes: number, ranges: readonly { readonly extent: Extent }[]): Uint8Array {
  return overNoise(
    bytes,
    ranges.map((one) => one.extent),
    shelf,
  );
}

/** Walks all of a volume and reads where its files lie. */
async function explore(bytes: Uint8Array): Promise<{ entries: number; troubles: number; opened: boolean }> {
  const source = inMemory(bytes);
  const volume = await openVolume(source, 0);
  let [entries, troubles] = [0, 0];
  if (!volume) return { entries, troubles, opened: false };
  for await (const { entry } of walk(volume, () => troubles++)) {
    if (++entries > MOST_ENTRIES) break;
    if (entry.folder) continue;
    let pieces = 0;
    try {
      for await (const { at, length } of volume.pieces(entry)) {
        expect(length).toBeGreaterThan(0);
        expect(at + length).toBeLessThanOrEqual(bytes.length);
        if (++pieces > MOST_PIECES) break;
      }
    } catch (error) {
      expect(error).toBeInstanceOf(BrokenChain);
      troubles++;
    }
  }
  return { entries, troubles, opened: true };
}

/** Numbers that break things more often than others. */
const EDGES = [0, 1, 2, 5, 0x0f, 0x10, 0x40, 0x7f, 0x80, 0x81, 0x85, 0xc0, 0xe5, 0xf8, 0xff];

describe.each<[string, () => Uint8Array]>([
  ['FAT12', () => fat(12, MIB)],
  ['FAT16', () => fat(16, 4 * MIB)],
  ['FAT32', () => fat(32, 36 * MIB)],
  ['exFAT', () => exfat(2 * MIB)],
])('%s', (_, make) => {
  const sound = make();

  test('sound, all of it is found', async () => {
    const { entries, troubles } = await explore(sound);
    expect(entries).toBeGreaterThanOrEqual(tree!.length);
    expect(troubles).toBe(0);
  });

  test('with bytes changed, a walk ends and fails in one way only', async () => {
    // What is not noise: structures, and the files behind them.
    const filled: number[] = [];
    for (let at = 0; at < sound.length && filled.length < 400; at += 512)
      if (sound[at] !== 0xa5 && sound.subarray(at, at + 512).some((byte) => byte !== 0)) filled.push(at);
    const places = fc.tuple(fc.constantFrom(...filled), fc.nat(511)).map(([sector, within]) => sector + within);
    const change = fc.tuple(places, fc.oneof(fc.constantFrom(...EDGES), fc.nat(255)));
    let damaged = 0;
    await fc.assert(
      fc.asyncProperty(fc.array(change, { minLength: 1, maxLength: 12 }), async (changes) => {
        const before = changes.map(([at]) => sound[at]!);
        for (const [at, byte] of changes) sound[at] = byte;
        const { troubles, opened } = await explore(sound);
        if (troubles > 0 || !opened) damaged++;
        // The first of two changes of one byte is undone last.
        for (let i = changes.length - 1; i >= 0; i--) sound[changes[i]![0]] = before[i]!;
      }),
      { numRuns: cases(80, 300) },
    );
    expect(damaged).toBeGreaterThan(0);
  });
});
