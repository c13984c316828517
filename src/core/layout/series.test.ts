/** Copies of a series. */
import { contentIdOf } from '@tests/samples';
import { fatPart, GPT_TABLE, layoutOn, NO_TABLE, part, raw } from '@tests/samples';
import { copyOf } from './series';
import { COPY_LIMIT } from './vocabulary';
import type { Layout } from './document';
import { validateLayout } from './validate';

const EXFAT = { kind: 'exfat', volumeId: '7A1D-10C5', label: 'Wide' } as const;
const SWAP = { kind: 'swap', uuid: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5' } as const;
const SLOTS = [
  raw('loader', '8 KiB', '32 KiB'),
  fatPart('boot', '40 MiB', { label: 'BOOT' }),
  part('wide', '40 MiB', { content: EXFAT }),
  part('swap', '40 MiB', { role: 'swap', content: SWAP }),
];

/** Every id of a layout. */
function idsOf({ table, slots }: Layout): string[] {
  const own = table.kind === 'mbr' ? [table.signature] : table.kind === 'gpt' ? [table.diskId] : [];
  return [
    ...own,
    ...slots.flatMap((slot) => {
      if (slot.kind !== 'partition') return [];
      const { content, partitionId } = slot;
      const inside = content && contentIdOf(slot);
      return [partitionId, inside].filter((id) => id !== undefined);
    }),
  ];
}

describe.each<[string, Layout]>([
  ['MBR', layoutOn('1 GiB', SLOTS)],
  ['GPT', layoutOn('1 GiB', SLOTS, { table: GPT_TABLE })],
  ['no table', layoutOn('64 MiB', [fatPart('a', 'rest')], { table: NO_TABLE })],
])('a series with %s', (_, layout) => {
  test('copy 0 is the layout itself', () => expect(copyOf(layout, 0)).toBe(layout));

  test('no two of fifty copies share an id, and none has one of the layout', () => {
    const all = [1, 2, 3, 40, COPY_LIMIT, ...Array.from({ length: 45 }, (_, i) => 100 + i)].flatMap((copy) =>
      idsOf(copyOf(layout, copy)),
    );
    expect(new Set([...all, ...idsOf(layout)]).size).toBe(all.length + idsOf(layout).length);
  });

  test('a copy is a valid document, the same each time, and differs in ids alone', () => {
    const copy = copyOf(layout, 7);
    expect(copyOf(layout, 7)).toEqual(copy);
    expect(validateLayout(copy)).toMatchObject({ ok: true });
    const plain = (one: Layout) =>
      JSON.stringify(one, (key, value: unknown) =>
        ['signature', 'diskId', 'partitionId', 'volumeId', 'uuid'].includes(key) ? undefined : value,
      );
    expect(plain(copy)).toBe(plain(layout));
  });
});
