import fc from 'fast-check';
import { anyLayout } from '@tests/any/layout';
import { mbr } from '@tests/found-base';
import { FoundImage } from '@tests/found-image';
import { fatPart, free, GPT_TABLE, layoutOn, NO_TABLE, part, raw } from '@tests/samples';
import { START_MEDIA } from '@tests/start-combinations';
import { check } from '../findings/layout/check';
import { stopsAmong } from '../findings/layout/finding';
import type { Layout, Slot } from '../layout/document';
import { applyEdit } from '../layout/edits';
import { SLOT_LIMIT } from '../layout/vocabulary';
import { place } from '../placement/place';
import { layoutKeeping } from '../change/keep';
import { isKept } from '../layout/kept';
import { surveyMedium } from '../survey/survey';
import { adding, type NewKind, takingOver, type Wanted } from './adding';

const ANYWHERE: Wanted = { kind: 'anywhere' };

/** The layout with the slot added, and that slot as it was placed. */
function added(layout: Layout, wanted: Wanted = ANYWHERE, kind: NewKind = 'partition') {
  const { edit, id } = adding(place(layout), wanted, kind)!;
  const after = place(applyEdit(layout, edit));
  return { after, index: edit.index, one: after.placed.find(({ slot }) => slot.id === id)! };
}

const stops = (layout: Layout) => stopsAmong(check(place(layout))).map(({ rule }) => rule);

describe('a partition', () => {
  test('takes what is free at the end, and a name by its role', () => {
    const { one } = added(layoutOn('1 GiB', [part('a', '100 MiB')]));
    expect(one.slot).toMatchObject({ name: 'Data', role: 'data', size: 'rest' });
    expect(one.sectors).toBe((1024 - 100) * 2048 - 2048);
  });

  test('takes the free space that it is added in, not another one', () => {
    const slots = [part('a', '100 MiB'), raw('r', '500 MiB', '1 MiB'), part('b', '50 MiB')];
    const layout = layoutOn('1 GiB', slots);
    const gaps = place(layout).strata.filter((one) => one.kind === 'gap' && one.sectors > 2048);
    expect(gaps).toHaveLength(2);
    for (const gap of gaps) {
      const { one, after } = added(layout, { kind: 'gap', start: gap.start });
      expect(one.start).toBe(gap.start);
      expect(one.sectors).toBeGreaterThan(gap.sectors - 2048);
      expect(after.misfits).toEqual([]);
    }
  });

  test('comes behind the selected slot, and goes elsewhere where nothing is left there', () => {
    const layout = layoutOn('1 GiB', [part('a', '100 MiB'), part('b', '50 MiB')]);
    expect(added(layout, { kind: 'behind', id: 'a' }).index).toBe(1);
    const tight = layoutOn('1 GiB', [part('a', '100 MiB'), raw('r', '101 MiB', '1 MiB'), part('b', '50 MiB')]);
    expect(added(tight, { kind: 'behind', id: 'a' })).toMatchObject({ index: 3 });
  });

  test('shares with those that share, where nothing is free', () => {
    const { one } = added(layoutOn('1 GiB', [part('a', 'rest')]));
    expect(one.slot).toMatchObject({ size: 'rest' });
    expect(one.sectors).toBe((1024 * 2048 - 2048) / 2 - 1024);
  });

  test('becomes a logical one where the entries of an MBR are spent', () => {
    const logical = [1, 2, 3, 4].map((n) => part(`p${n}`, '10 MiB', n === 4 ? { logical: true } : {}));
    expect(added(layoutOn('1 GiB', logical)).one.slot).toMatchObject({ logical: true });
  });

  test('on a full medium says what is in the way instead of doing nothing', () => {
    const layout = layoutOn('100 MiB', [part('a', '99 MiB')]);
    const { edit } = adding(place(layout), ANYWHERE, 'partition')!;
    expect(stops(applyEdit(layout, edit))).toContain('size/larger-than-the-medium');
  });

  test('keeps to what an MBR can say', () => {
    const { one, after } = added(layoutOn('8 TB', []));
    expect(one.slot).toMatchObject({ size: 'rest, at most 2097151 MiB' });
    expect(stopsAmong(check(after)).map(({ rule }) => rule)).toEqual(stops(layoutOn('8 TB', [])));
  });
});

test('the first one on an empty layout brings no stop, on any medium, with any table, for anything that starts', () => {
  const tables = [{ kind: 'mbr', signature: '6d617272' } as const, GPT_TABLE, NO_TABLE];
  for (const medium of START_MEDIA)
    for (const table of tables)
      for (const boots of [[], ['uefi'], ['bios'], ['uefi', 'bios'], ['board']] as const)
        for (const kind of ['partition', 'free', 'raw'] as const) {
          const layout = layoutOn('1 GiB', [], { medium, table, boots: [...boots] });
          const before = stops(layout);
          const { edit } = adding(place(layout), ANYWHERE, kind)!;
          expect({
            medium,
            table,
            kind,
            stops: stops(applyEdit(layout, edit)).filter((rule) => !before.includes(rule)),
          }).toEqual({ medium, table, kind, stops: [] });
        }
});

describe('the other kinds', () => {
  test('free space takes what is free, or a little where nothing is', () => {
    expect(added(layoutOn('1 GiB', [part('a', '100 MiB')]), ANYWHERE, 'free').one.slot).toMatchObject({ size: 'rest' });
    expect(added(layoutOn('1 GiB', [part('a', 'rest')]), ANYWHERE, 'free').one.slot).toMatchObject({ size: '256 MiB' });
    expect(added(layoutOn('64 MiB', [part('a', 'rest')]), ANYWHERE, 'free').one.slot).toMatchObject({ size: '16 MiB' });
  });

  test('raw ranges stand where loaders begin, one behind the other', () => {
    let layout = layoutOn('1 GiB', [part('a', 'rest')]);
    const starts = [1, 2, 3].map(() => {
      const { edit } = adding(place(layout), ANYWHERE, 'raw')!;
      layout = applyEdit(layout, edit);
      return (edit.slot as Extract<Slot, { kind: 'raw' }>).at;
    });
    expect(starts).toEqual(['32 KiB', '512 KiB', '992 KiB']);
    expect(stops(layout)).toEqual([]);
  });
});

test('names are new ones, and a full layout takes nothing more', () => {
  const layout = layoutOn('1 GiB', [part('a', '10 MiB', { name: 'Data' }), part('b', '10 MiB', { name: 'Data 2' })]);
  expect(added(layout).one.slot.name).toBe('Data 3');
  const full = layoutOn(
    '1 GiB',
    Array.from({ length: 256 }, (_, i) => free(`f${i}`, '1 MiB')),
  );
  expect(adding(place(full), ANYWHERE, 'partition')).toBeUndefined();
});

test('whatever is there, the others stay as they are in the document', () => {
  fc.assert(
    fc.property(anyLayout, fc.constantFrom<NewKind>('partition', 'raw', 'free'), (layout, kind) => {
      const made = adding(place(layout), ANYWHERE, kind);
      // A layout that is full takes no more.
      expect(made === undefined).toBe(layout.slots.length >= SLOT_LIMIT);
      if (!made) return;
      const after = applyEdit(layout, made.edit);
      expect(after.slots.filter(({ id }) => id !== made.id)).toEqual(layout.slots);
      expect(after.slots).toHaveLength(layout.slots.length + 1);
    }),
    { numRuns: 100 },
  );
});

describe('the files of a kept volume in a new slot', () => {
  const FILES = 'a'.repeat(64);
  const keeping = async (image: FoundImage): Promise<Layout> => {
    const survey = await surveyMedium(image, { sectorSize: 512 });
    const kept = layoutKeeping(survey, { name: 'Kept', date: '2026-03-01T12:00:00' });
    if (!kept.ok) throw new Error(kept.error);
    return kept.value;
  };
  const takenOver = (layout: Layout, n: number, kind: 'fat' | 'exfat' = 'fat', label?: string) => {
    const like = layout.slots.filter(isKept)[n]!;
    const { edit, id } = takingOver(place(layout), { like, files: FILES, kind, label })!;
    const after = place(applyEdit(layout, edit));
    return { like, after, one: after.placed.find(({ slot }) => slot.id === id)! };
  };

  test('it is as large as the kept one where there is room, and the kept one stays', async () => {
    const layout = await keeping(mbr());
    const { like, after, one } = takenOver(layout, 0, 'fat', 'TIDE BUOY');
    expect(one.slot).toMatchObject({ role: 'data', name: `${like.name} 2`, size: like.size });
    expect(one.slot).toMatchObject({ content: { kind: 'fat', label: 'TIDE BUOY', files: FILES } });
    const keptOf = ({ placed }: typeof after) =>
      placed.filter(({ slot }) => slot.id.startsWith('kept')).map(({ start, sectors }) => [start, sectors]);
    expect(keptOf(after)).toEqual(keptOf(place(layout)));
    expect(after.misfits).toEqual([]);
  });

  test('an ESP stays an ESP; where its size does not fit, it takes what is free; odd labels are left out', async () => {
    const image = FoundImage.of(
      layoutOn('64 MiB', [fatPart('e', '34 MiB', { label: 'ESP' }, { role: 'esp' }), part('d', '8 MiB')], {
        table: GPT_TABLE,
      }),
    );
    const { one, after } = takenOver(await keeping(image), 0, 'fat', 'very long label');
    expect(one.slot).toMatchObject({ role: 'esp', size: 'rest' });
    expect(one.slot).toMatchObject({
      content: expect.not.objectContaining({ label: expect.anything() as string }) as object,
    });
    expect(one.sectors).toBeGreaterThan(15 * 2048);
    expect(after.misfits).toEqual([]);
  });
});
