/** Volumes with planted faults: refused as they are, and repacked without the files that the checker named, sound and whole otherwise. */
import { inMemory } from '@tests/filled';
import { planted, sound } from '@tests/planted-ext';
import { FAULTS, MORE_FAULTS } from '@tests/planted-faults';
import { factsOf, laidOver } from '@tests/repacked';
import { cases, oneOf } from '@tests/tier';
import { checkExt } from '../check/check';
import { orderRepack } from './order';

const CASES = oneOf(9, [...FAULTS, ...MORE_FAULTS]);
/** What of them could be repacked. */
const outcomes = { refused: 0, whole: 0, without: 0 };

test.each(CASES.map(([code, which, plant], i) => [code, which, i, plant] as const))(
  '%s in %s (%d)',
  async (code, which, __, plant) => {
    const one = planted(which);
    plant(one);
    const source = inMemory(one.bytes);
    const wish = { bytes: one.bytes.length, numbering: 'renumbered' } as const;
    const strict = await orderRepack(source, 0, one.bytes.length, wish);
    // What was only left undone is done; everything else is refused, with its faults or the reason.
    const refused = strict.ok ? await strict.value.sound() : strict.error;
    if (code !== 'superblock/orphans' && code !== 'superblock/state') expect(refused?.why).toMatch(/./);
    const order = await orderRepack(source, 0, one.bytes.length, { ...wish, withoutFaulty: true });
    if (!order.ok) {
      outcomes.refused += 1;
      expect(order.error.why).not.toBe('');
      return;
    }
    const bytes = await laidOver(source, order.value);
    const { faults, entries } = await checkExt(inMemory(bytes), 0, bytes.length);
    expect(faults.filter(({ code }) => code !== 'lost+found/missing')).toEqual([]);
    if (order.value.leftOut.length === 0) outcomes.whole += 1;
    else outcomes.without += 1;
    const there = new Set(entries.map(({ path }) => path));
    for (const path of order.value.leftOut) expect(there.has(path)).toBe(false);
    // What stays is as it was in the sound volume: content, facts and attributes.
    const was = new Set(await facts(which));
    const is = await factsOf(bytes, ['lost+found/missing']);
    const strange = is.filter((line) => !was.has(line) && !isTouched(line));
    expect(strange.length).toBeLessThanOrEqual(order.value.leftOut.length + 2);
  },
);

/** Folders lose links with what is in them; their line differs then. */
const isTouched = (line: string) => line.split('|')[0] === '' || line.split('|')[0] === 'lost+found';

const known = new Map<string, string[]>();
async function facts(which: Parameters<typeof sound>[0]): Promise<string[]> {
  const found = known.get(which) ?? (await factsOf(sound(which).bytes));
  known.set(which, found);
  return found;
}

test('most of them can be repacked, all or without some files', () => {
  expect(outcomes.whole + outcomes.without).toBeGreaterThan(CASES.length / 2);
  expect(outcomes.without).toBeGreaterThan(cases(2, 30));
});
