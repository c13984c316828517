/** Volumes in another length: every fact stays, the checker finds no fault, and one block less has no room. */
import { MIB } from '@/core/quantity/units';
import { inMemory } from '@tests/filled';
import { sound, type Which, WISHES } from '@tests/planted-ext';
import { factsOf, repackedOver } from '@tests/repacked';
import { minimaOf, type Numbering, repackable, repacked } from './repack';

async function opened(bytes: Uint8Array) {
  const volume = await repackable(inMemory(bytes), 0);
  if (!volume.ok) throw new Error(volume.error);
  return volume.value;
}

describe.each(Object.keys(WISHES) as Which[])('%s', (which) => {
  const { bytes } = sound(which);
  const source = inMemory(bytes);

  test.each<[Numbering, number]>([
    ['renumbered', 0],
    ['renumbered', 1],
    ['kept', 0],
    ['renumbered', 40 * MIB],
    ['kept', 73 * MIB + 512],
  ])('%s, in %d bytes or that many over the minimum', async (numbering, more) => {
    const minima = minimaOf(await opened(bytes));
    const least = minima[numbering]!;
    const made = await repackedOver(source, more < MIB ? least + more * minima.block : more, numbering);
    expect(await factsOf(made)).toEqual(await factsOf(bytes));
  });

  test.each<Numbering>(['renumbered', 'kept'])('one block less than the minimum fails, %s', async (numbering) => {
    const volume = await opened(bytes);
    const { block, ...minima } = minimaOf(volume);
    const least = minima[numbering]!;
    expect(least).toBeLessThan(bytes.length);
    const short = await repacked(volume, least - block, numbering);
    expect(short.ok ? 'it was made' : short.error).toMatch(/needs/);
    expect((await repacked(volume, least, numbering)).ok).toBe(true);
  });
});
