import { readFileSync } from 'node:fs';
import Ajv from 'ajv/dist/2020';
import fc from 'fast-check';
import { fatPart, free, layoutOn, part, raw } from '@tests/samples';
import { describeEdit } from './describe';
import type { Layout } from './document';
import { applyEdit, derivedVolumeId, type Edit, activateOnly, newSlotId } from './edits';
import { layoutSchema, wordsAmiss } from './schema';
import { DOCUMENT_LIMIT, readLayout, validateLayout, writeLayout } from './validate';

const demo = (name: string) => readFileSync(`demo/${name}.json`, 'utf8');
const GAUGE = JSON.parse(demo('gauge-logger')) as Layout;

/** The gauge logger with one value replaced: `slots.1.size` and the like; undefined removes it. */
function changed(path: string, value: unknown): unknown {
  const copy = structuredClone(GAUGE) as unknown as Record<string, unknown>;
  const keys = path.split('.');
  const last = keys.pop()!;
  const target = keys.reduce<Record<string, unknown>>((at, key) => at[key] as Record<string, unknown>, copy);
  if (value === undefined) Reflect.deleteProperty(target, last);
  else target[last] = value;
  return copy;
}

describe('validation', () => {
  test('the demo documents are valid and written as they stand', () => {
    for (const name of ['gauge-logger', 'service-stick']) {
      const text = demo(name);
      const read = readLayout(text);
      expect(read.ok && writeLayout(read.value)).toBe(text);
    }
  });

  test('keys come out in the order of the document, whatever order they came in', () => {
    const reversed = Object.fromEntries(Object.entries(GAUGE).reverse());
    const read = validateLayout(reversed);
    expect(read.ok && writeLayout(read.value)).toBe(demo('gauge-logger'));
  });

  test.each([
    ['version', 3, 'version', /up to version 2/],
    ['version', 0, 'version', /must be 2/],
    ['format', 'other', 'format', /must be "loess-layout"/],
    ['name', '', 'name', /too short/],
    ['name', 'two\nlines', 'name', /one line/],
    ['name', undefined, 'name', /is missing/],
    ['name', 7, 'name', /must be a string/],
    ['colour', 'red', 'colour', /not a field/],
    ['date', '2026-02-30T00:00:00', 'date', /calendar/],
    ['date', '1979-12-31T00:00:00', 'date', /between 1980/],
    ['medium.logicalSector', 1024, 'medium.logicalSector', /./],
    ['medium.kind', 'tape', 'medium.kind', /"disk"/],
    ['medium.capacity', { exact: '9000 PiB' }, 'medium.capacity.exact', /Too large/],
    ['medium.capacity', { nominal: '8 GB', floor: 20 }, 'medium.capacity.floor', /at least 50/],
    ['medium.writeUnit', '1000 B', 'medium.writeUnit', /multiple of the logical sector/],
    ['grain', '3 GiB', 'grain', /1 GiB at most/],
    ['table.signature', 'xyz', 'table.signature', /eight hexadecimal/],
    ['boots', ['bios', 'bios'], 'boots', /twice/],
    ['boots', ['magic'], 'boots[0]', /"uefi"/],
    ['slots', 'none', 'slots', /must be an array/],
    ['slots.1.size', '256 Mix', 'slots[1].size', /“Mix” is no unit.*character 5/],
    ['slots.1.kind', 'partitoin', 'slots[1].kind', /"partition"/],
    ['slots.1.id', 'loader', 'slots[1].id', /already the id of slots\[0\]/],
    ['slots.1.active', 'yes', 'slots[1].active', /must be true/],
    ['slots.1.content.cluster', '3 KiB', 'slots[1].content.cluster', /power of two/],
    ['slots.1.content.kind', 'fat32', 'slots[1].content.kind', /"fat", "exfat", .*"left"/],
    ['slots.1.content.volumeId', '1234', 'slots[1].content.volumeId', /eight/],
    ['slots.1.mount', 'boot', 'slots[1].mount', /begins with/],
    ['slots.0.at', 'rest', 'slots[0].at', /./],
    ['slots.0.size', '1 MiB', 'slots[0].size', /not a field/],
  ])('%s = %j is refused at %s', (path, value, at, message) => {
    const read = validateLayout(changed(path, value));
    expect(read.ok).toBe(false);
    if (read.ok) return;
    expect(read.error[0]!.path).toBe(at);
    expect(read.error[0]!.message).toMatch(message);
  });

  test('10,000 slots are refused by their number, without looking at each', () => {
    const slots = Array.from({ length: 10_000 }, (_, i) => part(`p${i}`, '1 MiB'));
    expect(validateLayout({ ...GAUGE, slots })).toEqual({
      ok: false,
      error: [{ path: 'slots', message: 'are 10000; a layout has at most 256' }],
    });
  });

  test('texts that are no documents', () => {
    expect(readLayout('{')).toMatchObject({ ok: false, error: [{ path: '' }] });
    expect(readLayout('null')).toMatchObject({ ok: false });
    expect(readLayout('[]')).toMatchObject({ ok: false });
    expect(readLayout(' '.repeat(DOCUMENT_LIMIT + 1))).toMatchObject({
      ok: false,
      error: [{ message: expect.stringContaining('longer') as string }],
    });
  });

  test('many errors are told up to a bound', () => {
    const slots = Array.from({ length: 100 }, () => ({ kind: 'partition' }));
    const read = validateLayout({ ...GAUGE, slots });
    expect(!read.ok && read.error.length).toBe(20);
  });
});

describe('the JSON Schema', () => {
  const bySchema = new Ajv({ strict: true }).compile(layoutSchema());
  /** What the program says and no schema can: rules across objects, the size language, the calendar. */
  const beyondSchemas: readonly [RegExp, string][] = [
    [/already the id/, 'ids of slots are each once'],
    [/\(character \d+\)$/, 'the size language, to its end'],
    [/power of two|must be the id of a partition|twice/, 'what depends on another field'],
    [/multiple of the logical/, 'sizes are computed'],
    [/calendar/, 'days of months'],
    [/beside the document without its sum/, 'whether somebody sees the files'],
    [/at most 256/, 'told first'],
  ];

  test('every field has words, and all words a field', () => {
    expect(wordsAmiss()).toEqual({ missing: [], needless: [] });
  });

  test('the published file is the one of this version', () => {
    const published = readFileSync('public/layout-2.schema.json', 'utf8');
    expect(published).toBe(`${JSON.stringify(layoutSchema(), null, 2)}\n`);
  });

  test('one wrong field of a slot is one error, at its place', () => {
    const wrong = changed('slots.1.content.kind', 'fatt');
    const errors = new Ajv({ allErrors: true, strict: false }).compile(layoutSchema());
    errors(wrong);
    // A choice by kind says of itself that it failed, too.
    const told = errors.errors!.filter((one) => one.keyword !== 'if');
    expect(told.map((one) => one.instancePath)).toEqual(['/slots/1/content/kind']);
  });

  test('all examples and defaults are valid where they stand', () => {
    const inner = new Ajv({ strict: false });
    const definitions = (layoutSchema() as { $defs: object }).$defs;
    const wrong: string[] = [];
    const look = (part: unknown, path: string): void => {
      if (typeof part !== 'object' || part === null) return;
      const { examples, default: given, ...rest } = part as { examples?: unknown[]; default?: unknown };
      const given_ = given === undefined ? [] : [given];
      for (const one of [...(examples ?? []), ...given_])
        if (!inner.validate({ ...rest, $defs: definitions }, one)) wrong.push(`${path}: ${JSON.stringify(one)}`);
      for (const [key, value] of Object.entries(rest)) look(value, `${path}/${key}`);
    };
    look(layoutSchema(), '');
    expect(wrong).toEqual([]);
  });

  /** What the program takes, the schema takes; what only the program refuses has one of the reasons above. */
  function agree(value: unknown): void {
    // Older versions are read too; the schema is that of the newest.
    if ((value as { version?: unknown } | null)?.version === 1) return;
    const ours = validateLayout(value);
    const bySchemas = bySchema(value);
    if (ours.ok) expect([bySchemas, bySchema.errors]).toEqual([true, null]);
    else if (bySchemas)
      for (const { message } of ours.error)
        expect(beyondSchemas.filter(([text]) => text.test(message))).not.toEqual([]);
  }

  test('it agrees with the validator on mutants of a document', () => {
    const paths: string[] = [];
    const collect = (value: unknown, path: string) => {
      if (path !== '') paths.push(path);
      if (typeof value === 'object' && value !== null)
        for (const [key, inner] of Object.entries(value)) collect(inner, path === '' ? key : `${path}.${key}`);
    };
    collect(GAUGE, '');
    const values = fc.oneof(
      fc.constantFrom<unknown>(
        undefined,
        null,
        true,
        0,
        -1,
        512,
        4096,
        '',
        'rest',
        '8 GB',
        '1 MiB',
        '0',
        '0C',
        'ab',
        [],
        {},
        'fat32',
        'raw',
        'esp',
      ),
      fc.string({ maxLength: 12 }),
      fc.jsonValue({ maxDepth: 2 }),
    );
    fc.assert(
      fc.property(fc.constantFrom(...paths), values, (path, value) => agree(changed(path, value))),
      { numRuns: 3000 },
    );
  });

  test('it agrees on added fields and on any JSON at all', () => {
    fc.assert(fc.property(fc.string(), fc.jsonValue(), (key, value) => agree({ ...GAUGE, [`x${key}`]: value })));
    fc.assert(fc.property(fc.jsonValue(), (value) => agree(value)));
  });
});

describe('edits', () => {
  const layout = layoutOn('1 GiB', [raw('a', '1 MiB', '1 MiB'), part('b', '100 MiB'), fatPart('c', 'rest')]);
  const ids = (one: Layout) => one.slots.map((slot) => slot.id).join('');

  test.each<[Edit, string]>([
    [{ do: 'add slot', slot: free('d', '1 MiB'), index: 1 }, 'adbc'],
    [{ do: 'add slot', slot: free('d', '1 MiB'), index: 99 }, 'abcd'],
    [{ do: 'remove slot', id: 'b' }, 'ac'],
    [{ do: 'remove slot', id: 'z' }, 'abc'],
    [{ do: 'move slot', id: 'c', index: 0 }, 'cab'],
    [{ do: 'move slot', id: 'a', index: 2 }, 'bca'],
    [{ do: 'move slot', id: 'z', index: 0 }, 'abc'],
    [
      {
        do: 'several',
        edits: [
          { do: 'remove slot', id: 'a' },
          { do: 'move slot', id: 'c', index: 0 },
        ],
      },
      'cb',
    ],
  ])('%j', (edit, order) => {
    const before = JSON.stringify(layout);
    expect(ids(applyEdit(layout, edit))).toBe(order);
    expect(JSON.stringify(layout)).toBe(before);
  });

  test('a patch sets and removes fields, and leaves the others the same objects', () => {
    const marked = applyEdit(layout, { do: 'change slot', id: 'b', patch: { active: true, size: '50 MiB' } });
    expect(marked.slots[1]).toEqual({ ...layout.slots[1], active: true, size: '50 MiB' });
    expect(marked.slots[2]).toBe(layout.slots[2]);
    const plain = applyEdit(marked, { do: 'change slot', id: 'b', patch: { active: undefined } });
    expect('active' in plain.slots[1]!).toBe(false);
    expect(applyEdit(layout, { do: 'change layout', patch: { grain: '4 MiB' } }).grain).toBe('4 MiB');
  });

  test('marking one takes the mark from the others', () => {
    const both = layoutOn('1 GiB', [part('a', '1 MiB', { active: true }), part('b', '1 MiB')]);
    const after = applyEdit(both, activateOnly(both, 'b'));
    expect(after.slots.map((slot) => slot.kind === 'partition' && slot.active)).toEqual([undefined, true]);
  });

  test('new ids are free, and volume ids follow from the document', () => {
    expect(newSlotId(layoutOn('1 GiB', [part('slot-2', '1 MiB')]))).toBe('slot-3');
    expect(derivedVolumeId(layout, 'c')).toBe(derivedVolumeId(layout, 'c'));
    expect(derivedVolumeId(layout, 'c')).toMatch(/^[0-9A-F]{4}-[0-9A-F]{4}$/);
    expect(derivedVolumeId(layout, 'c')).not.toBe(derivedVolumeId(layout, 'd'));
  });

  test.each<[Edit, string]>([
    [{ do: 'add slot', slot: free('d', '1 MiB'), index: 1 }, 'Added d'],
    [{ do: 'remove slot', id: 'b' }, 'Deleted b'],
    [{ do: 'move slot', id: 'c', index: 0 }, 'Moved c to line 1'],
    [{ do: 'change slot', id: 'b', patch: { size: '1 GiB' } }, 'b: size 1 GiB'],
    [{ do: 'change slot', id: 'b', patch: { active: undefined } }, 'b: no active mark'],
    [{ do: 'change layout', patch: { grain: undefined } }, 'Layout: no grain'],
    [{ do: 'change layout', patch: { boots: [] } }, 'Layout: what starts from it changed'],
  ])('%j is told as “%s”', (edit, text) => {
    expect(describeEdit(layout, edit)).toBe(text);
  });
});
