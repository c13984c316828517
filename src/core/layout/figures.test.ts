/** What a document says in numbers, each part read once. */
import { image } from '@tests/finding-cases/case';
import { part, raw } from '@tests/samples';
import type { RawSlot } from './document';
import { applyEdit } from './edits';
import { figuresOf, flowFigures, type FlowSlot, rawFigures } from './figures';

test('a slot says its size as a rule, its place and grain in bytes', () => {
  const slot = part('a', 'rest, at least 8 MiB', { at: '2048 sectors', grain: '64 KiB' }) as FlowSlot;
  expect(flowFigures(slot, 512)).toMatchObject({ size: { kind: 'rest', weight: 1 }, at: 2048 * 512, grain: 65_536 });
  expect(flowFigures(slot, 4096)).toMatchObject({ at: 2048 * 4096, grain: 65_536 });
  expect(flowFigures(slot, 512)).toMatchObject({ at: 2048 * 512 });
  expect(rawFigures(raw('r', '16 sectors', '1.5 KiB') as RawSlot, 512)).toEqual({ at: 8192, length: 1536 });
});

test('a layout says its medium, grain, array, memory and board', () => {
  const layout = image('1 GiB', [], {
    grain: '4 MiB',
    machine: { memory: '2 GiB' },
    table: { kind: 'gpt', diskId: '0f6c1f0a-52cd-4b0e-9a35-7a20b2f3c4d5', array: '1 MiB' },
  });
  expect(figuresOf(layout)).toMatchObject({
    medium: { kind: 'image', capacity: 2 ** 30, logicalSector: 512 },
    grain: 4 * 2 ** 20,
    array: 2 ** 20,
    memory: 2 ** 31,
    board: undefined,
  });
});

test('what was read of a part holds as long as the part does: an edit reads only what it made new', () => {
  const layout = image('1 GiB', [part('a', '10 MiB'), part('b', '20 MiB')]);
  const read = ({ slots }: typeof layout) => slots.map((slot) => flowFigures(slot as FlowSlot, 512));
  const before = read(layout);
  expect(read(layout).map((one, i) => one === before[i])).toEqual([true, true]);
  const after = read(applyEdit(layout, { do: 'change slot', id: 'b', patch: { size: '30 MiB' } }));
  expect(after.map((one, i) => one === before[i])).toEqual([true, false]);
  expect(after[1]!.size).toMatchObject({ kind: 'exact', amount: { numerator: 30n * 2n ** 20n } });
});

test('a text that no validated document has is an error of the program, with the slot', () => {
  expect(() => flowFigures(part('a', 'plenty') as FlowSlot, 512)).toThrow(/slot a: /);
});
