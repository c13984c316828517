import { fatPart, GPT_TABLE, layoutOn, NO_TABLE, part } from '@tests/samples';
import { check } from '../findings/layout/check';
import { stopsAmong } from '../findings/layout/finding';
import { place } from '../placement/place';
import type { Layout } from './document';
import { applyEdit } from './edits';
import { makeLogical, translation } from './translate';
import { validateLayout } from './validate';

const ESP = 'c12a7328-f81f-11d2-ba4b-00a0c93ec93b';
const LVM = 'e6d6d379-f507-44c2-a23c-238f2a3df928';

function after(layout: Layout, kind: 'mbr' | 'gpt' | 'none') {
  const { edit, remarks } = translation(layout, kind);
  const next = applyEdit(layout, edit);
  expect(validateLayout(JSON.parse(JSON.stringify(next)))).toMatchObject({ ok: true });
  return { next, remarks };
}

describe('to an MBR', () => {
  test('types and marks are translated, what cannot be carried over is said', () => {
    const layout = layoutOn(
      '4 GiB',
      [
        fatPart('esp', '300 MiB', {}, { role: 'esp', type: ESP }),
        part('sys', '1 GiB', { type: LVM, attributes: ['legacy boot', 'grow'] }),
        part('odd', '1 GiB', {
          type: '516e7cba-6ecf-11d6-8ff8-00022d09712b',
          partitionId: '6d617272-616d-4c0a-8d05-7469646573aa',
        }),
        fatPart('data', 'rest', {}, { type: 'ebd0a0a2-b9e5-4433-87c0-68b6b72699c7' }),
      ],
      { table: { ...GPT_TABLE, entries: 56, hybrid: ['data'] } },
    );
    const { next, remarks } = after(layout, 'mbr');
    expect(
      next.slots.map((slot) =>
        slot.kind === 'partition' ? [slot.type, slot.active, slot.attributes, slot.partitionId] : [],
      ),
    ).toEqual([
      ['EF', undefined, undefined, undefined],
      ['8E', true, undefined, undefined],
      [undefined, undefined, undefined, undefined],
      [undefined, undefined, undefined, undefined],
    ]);
    expect(remarks).toEqual([
      'The entries beside the protective one go with the GPT.',
      'Number and place of the GPT entries go with it.',
      'MBR keeps no names of partitions.',
      'esp: type ESP becomes EF ESP.',
      'sys: type LVM becomes 8E LVM.',
      'sys: the attribute “legacy boot” becomes the active mark.',
      'sys: “grow” cannot be carried over.',
      'odd: type FreeBSD ZFS has no one counterpart; role and content decide now.',
      'odd: its partition id cannot be carried over.',
      'data: type basic data has no one counterpart; role and content decide now.',
    ]);
    expect(next.table).toMatchObject({ kind: 'mbr' });
  });

  test('slots past what sector 0 can hold become logical, and the layout stays sound', () => {
    const layout = layoutOn(
      '1 GiB',
      [...'abcdef'].map((id) => part(id, '10 MiB')),
      { table: GPT_TABLE },
    );
    const { next, remarks } = after(layout, 'mbr');
    expect(next.slots.map((slot) => slot.kind === 'partition' && slot.logical)).toEqual([
      undefined,
      undefined,
      undefined,
      true,
      true,
      true,
    ]);
    expect(remarks).toContain('d becomes a logical partition: sector 0 has four entries.');
    expect(stopsAmong(check(place(next)))).toEqual([]);
  });

  test('four stay primary', () => {
    const layout = layoutOn(
      '1 GiB',
      [...'abcd'].map((id) => part(id, '10 MiB')),
      { table: GPT_TABLE },
    );
    expect(after(layout, 'mbr').next.slots.some((slot) => slot.kind === 'partition' && slot.logical)).toBe(false);
  });

  test('the loader moves from its partition into the gap, and back', () => {
    const layout = layoutOn('1 GiB', [part('bb', '1 MiB', { role: 'bios-boot' }), part('a', 'rest')], {
      table: GPT_TABLE,
      boots: ['bios'],
      machine: { loader: 'bios boot partition', memory: '1 GiB' },
    });
    const { next, remarks } = after(layout, 'mbr');
    expect(next.slots.map((slot) => slot.id)).toEqual(['a']);
    expect(next.machine).toEqual({ loader: 'gap', memory: '1 GiB' });
    expect(remarks).toContain('bb goes: the loader lies in the gap ahead of the first partition.');
    const back = after(next, 'gpt').next;
    expect(back.slots.map((slot) => slot.kind === 'partition' && slot.role)).toEqual(['bios-boot', 'data']);
    expect(back.machine).toEqual({ loader: 'bios boot partition', memory: '1 GiB' });
  });
});

describe('to a GPT', () => {
  test('logical partitions become like the others, the mark an attribute, codes GUIDs', () => {
    const layout = layoutOn(
      '4 GiB',
      [
        part('a', '1 GiB', { active: true, type: '83' }),
        part('b', '1 GiB', { logical: true, type: '82' }),
        fatPart('c', '1 GiB', {}, { logical: true, type: '0C' }),
      ],
      { table: { kind: 'mbr', signature: '6d617272', packed: true } },
    );
    const { next, remarks } = after(layout, 'gpt');
    expect(next.slots).toMatchObject([
      { type: '0fc63daf-8483-4772-8e79-3d69d8477de4', attributes: ['legacy boot'] },
      { type: '0657fd6d-a4ab-43c4-84e5-0933c84b4f4f' },
      { type: 'ebd0a0a2-b9e5-4433-87c0-68b6b72699c7' },
    ]);
    expect(next.slots.some((slot) => slot.kind === 'partition' && (slot.logical || slot.active))).toBe(false);
    expect(remarks).toContain('How the chain of logical partitions is written goes with it.');
    expect(remarks).toContain('a: the active mark becomes the attribute “legacy boot”.');
  });
});

test('without a table marks have no place', () => {
  const { next, remarks } = after(layoutOn('1 GiB', [fatPart('a', 'rest', {}, { active: true })]), 'none');
  expect(next).toMatchObject({ table: NO_TABLE, slots: [{ id: 'a' }] });
  expect(remarks).toEqual(['a: there is no place for the active mark.']);
});

test('the same table is no change', () => {
  expect(translation(layoutOn('1 GiB', [part('a', 'rest')]), 'mbr')).toEqual({
    edit: { do: 'several', edits: [] },
    remarks: [],
  });
});

test('a fifth primary is cured by making all from the fourth on logical, around those that are', () => {
  const layout = layoutOn('1 GiB', [
    part('a', '1 MiB'),
    part('b', '1 MiB', { logical: true }),
    ...[...'cdef'].map((id) => part(id, '1 MiB')),
  ]);
  const next = applyEdit(layout, makeLogical(layout));
  expect(next.slots.map((slot) => slot.kind === 'partition' && slot.logical === true)).toEqual([
    false,
    true,
    true,
    true,
    true,
    true,
  ]);
  expect(stopsAmong(check(place(next)))).toEqual([]);
});
