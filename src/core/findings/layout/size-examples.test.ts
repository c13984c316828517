import fc from 'fast-check';
import { anyLayout } from '@tests/any/layout';
import { free, layoutOn, part, raw } from '@tests/samples';
import { applyEdit } from '../../layout/edits';
import { place } from '../../placement/place';
import { sizeExamples } from './size-examples';

test('an exact size, a share and a position that are there to be had', () => {
  const placement = place(layoutOn('10 GiB', [part('a', '5 GB'), part('b', '1 GiB')]));
  expect(sizeExamples(placement, 'a')).toEqual(['2 GiB', 'rest', 'ending at 2049 MiB']);
  expect(sizeExamples(placement, 'b')[0]).toBe('512 MiB');
});

test('a position beyond the medium is not offered', () => {
  const placement = place(layoutOn('10 MiB', [part('a', '8 MiB'), part('b', '1 sector')]));
  expect(sizeExamples(placement, 'b')).toEqual(['1 sector', 'rest', 'ending at 16640 sectors']);
  const full = place(layoutOn('10 MiB', [part('a', '9 MiB'), free('b', 'rest')], { grain: '512 KiB' }));
  expect(sizeExamples(full, 'b')).toEqual(['256 KiB', 'rest', 'ending at 10 MiB']);
});

test('whatever lands goes on landing with each of the examples', () => {
  fc.assert(
    fc.property(anyLayout, (layout) => {
      const placement = place(layout);
      if (placement.misfits.length > 0) return;
      const sized = placement.placed.filter((one) => one.slot.kind !== 'raw' && one.sectors > 0);
      for (const { slot } of [...sized.slice(0, 3), ...sized.slice(3).slice(-1)]) {
        const sizes = sizeExamples(placement, slot.id);
        expect(sizes.length).toBeGreaterThan(0);
        for (const size of sizes)
          expect(place(applyEdit(layout, { do: 'change slot', id: slot.id, patch: { size } })).misfits).toEqual([]);
      }
    }),
    { numRuns: 40 },
  );
});

test('of what is no slot with a size there are three that fit in most places', () => {
  const placement = place(layoutOn('1 GiB', [raw('r', '32 KiB', '64 KiB')]));
  expect(sizeExamples(placement, 'r')).toEqual(['512 MiB', 'rest', '25 %']);
  expect(sizeExamples(placement, 'nobody')).toEqual(['512 MiB', 'rest', '25 %']);
});
