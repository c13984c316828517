import { severalOf } from './selection';
import { movingSeveral } from './several';
import { fatPart, layoutOn, part } from '@tests/samples';
import { applyEdit } from '@/core/layout/edits';
import { readLines } from '@/core/layout/line-help';
import { linesOf } from './clipboard';

const layout = layoutOn('1 GiB', [
  part('a', '1 MiB'),
  part('b', '2 MiB'),
  fatPart('c', '3 MiB', { label: 'TIDE' }),
  part('d', 'rest'),
]);
const order = layout.slots.map((slot) => slot.id);

describe('moving several slots', () => {
  const moved = (ids: string[], step: 1 | -1) => {
    const edit = movingSeveral(order, ids, step);
    return (
      edit &&
      applyEdit(layout, edit)
        .slots.map((slot) => slot.id)
        .join('')
    );
  };

  test.each<[string[], 1 | -1, string | undefined]>([
    [['b', 'c'], -1, 'bcad'],
    [['b', 'c'], 1, 'adbc'],
    [['a', 'c'], 1, 'badc'],
    [['c', 'a'], 1, 'badc'],
    [['a', 'b'], -1, undefined],
    [['d'], 1, undefined],
  ])('%j by %d', (ids, step, after) => {
    expect(moved(ids, step)).toBe(after);
  });
});

test('a selection is as many slots as there are', () => {
  expect(severalOf([])).toEqual({ kind: 'layout' });
  expect(severalOf(['a'])).toEqual({ kind: 'slot', id: 'a' });
  expect(severalOf(['a', 'b'])).toEqual({ kind: 'several', ids: ['a', 'b'] });
});

test('slots travel as lines, in the order of the layout, and read back', () => {
  const text = linesOf(layout, ['d', 'c']);
  expect(text).toBe('c: 3 MiB, FAT32, label "TIDE"\nd: rest\n');
  expect(readLines(text).map((one) => one.parsed?.name)).toEqual(['c', 'd']);
  expect(linesOf(layout, [])).toBe('');
});
