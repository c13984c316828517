import fc from 'fast-check';
import { layoutOn, part } from '@tests/samples';
import { applyEdit } from './edits';
import { readLines } from './line-help';
import { addingLines, carriedPlaces } from './pasted';

const layout = layoutOn('1 GiB', [part('a', '10 MiB'), part('b', '10 MiB')]);
const names = (edited: ReturnType<typeof addingLines>) => applyEdit(layout, edited.edit).slots.map((slot) => slot.name);

describe('adding pasted lines', () => {
  test('they follow each other behind the place that they were pasted at', () => {
    const lines = readLines('x: 1 MiB\ny: 1 MiB\n');
    expect(names(addingLines(layout, lines, ['a', 'a']))).toEqual(['a', 'x', 'y', 'b']);
    expect(names(addingLines(layout, lines, [null, null]))).toEqual(['x', 'y', 'a', 'b']);
    expect(names(addingLines(layout, lines, [undefined, undefined]))).toEqual(['a', 'b', 'x', 'y']);
  });

  test('what cannot be read holds its place, and goes there when it is mended', () => {
    const lines = readLines('x: 1 MiB\ny: banana\nz: 1 MiB\nw: ?');
    const first = addingLines(layout, lines, ['a', 'a', 'a', 'a']);
    expect(names(first)).toEqual(['a', 'x', 'z', 'b']);
    expect(first.left.map((one) => one.text)).toEqual(['y: banana', 'w: ?']);
    const between = applyEdit(layout, first.edit);
    const mended = addingLines(between, readLines('y: 2 MiB\nw: 3 MiB'), first.behind);
    expect(applyEdit(between, mended.edit).slots.map((slot) => slot.name)).toEqual(['a', 'x', 'y', 'z', 'w', 'b']);
  });

  test('bad lines ahead of all others go to the front of them', () => {
    const first = addingLines(layout, readLines('y: banana\nx: 1 MiB'), ['b', 'b']);
    const between = applyEdit(layout, first.edit);
    const mended = addingLines(between, readLines('y: 2 MiB'), first.behind);
    expect(applyEdit(between, mended.edit).slots.map((slot) => slot.name)).toEqual(['a', 'b', 'y', 'x']);
  });

  test('a slot that was deleted meanwhile is not stood behind: the line goes to the front', () => {
    const mended = addingLines(layout, readLines('y: 2 MiB'), ['gone']);
    expect(names(mended)[0]).toBe('y');
  });

  test('no more than a layout can have; the others are left', () => {
    const lines = readLines(Array.from({ length: 300 }, (_, i) => `n${i}: 1 MiB`).join('\n'));
    const { edit, left, added } = addingLines(
      layout,
      lines,
      lines.map(() => undefined),
    );
    expect(applyEdit(layout, edit).slots).toHaveLength(256);
    expect([added.length, left.length]).toEqual([254, 46]);
  });

  test('whatever can be read or not, the slots come in the order of the lines when all are mended', () => {
    fc.assert(
      fc.property(fc.array(fc.boolean(), { maxLength: 12 }), fc.constantFrom('a', 'b', null, undefined), (good, at) => {
        const text = good.map((isGood, i) => `n${i}: ${isGood ? '1 MiB' : 'banana'}`).join('\n');
        const first = addingLines(
          layout,
          readLines(text),
          good.map(() => at),
        );
        const between = applyEdit(layout, first.edit);
        const mended = first.left.map((one) => one.text.replace('banana', '1 MiB')).join('\n');
        const second = addingLines(between, readLines(mended), first.behind);
        const all = applyEdit(between, second.edit).slots.map((slot) => slot.name);
        expect(all.filter((name) => name.startsWith('n'))).toEqual(good.map((_, i) => `n${i}`));
      }),
    );
  });
});

describe('places while lines are changed', () => {
  const before = ['a: ?', 'b: ?', 'c: ?'];
  const places = ['p', 'q', 'r'];

  test.each([
    [
      ['a: ?', 'b: 1 MiB', 'c: ?'],
      ['p', 'q', 'r'],
    ],
    [
      ['a: ?', 'c: ?'],
      ['p', 'r'],
    ],
    [
      ['a: ?', 'b: ?', 'new', 'c: ?'],
      ['p', 'q', 'q', 'r'],
    ],
    [
      ['b: ?', 'c: ?'],
      ['q', 'r'],
    ],
    [
      ['a: ?', 'b: ?', 'c: ?', 'd'],
      ['p', 'q', 'r', 'r'],
    ],
    [[], []],
  ])('%j', (after, expected) => expect(carriedPlaces(before, places, after)).toEqual(expected));
});
