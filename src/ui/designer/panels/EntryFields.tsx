'use client';

import type { PartitionSlot } from '@/core/layout/document';
import { activateOnly } from '@/core/layout/edits';
import type { Placed } from '@/core/placement/placement';
import { type Attribute, ATTRIBUTES, isGuid } from '@/core/tables/gpt';
import { knownTypes, nameOfType, typeMeant, typeName } from '@/core/tables/types';
import { Choice, SeveralChoice } from '../../kit/Choice';
import { Fold } from '../../kit/Fold';
import { type Echo, TextField } from '../../kit/TextField';
import { useDesigner } from '../state/context';
import { useSlotEditing } from '../state/editing';

function typeEcho(table: 'mbr' | 'gpt'): (draft: string) => Echo | undefined {
  return (draft) => {
    if (draft.trim() === '') return undefined;
    const type = typeMeant(draft, table);
    if (type === undefined)
      return {
        wrong: true,
        text:
          table === 'mbr'
            ? 'A name, as in Linux or LVM, or two hexadecimal digits.'
            : 'A name, as in Linux data or LVM, a code, or a GUID.',
      };
    return { wrong: false, text: `${nameOfType(type) ?? 'no type that is known'} · ${type}; empty: by rule` };
  };
}

function guidEcho(draft: string): Echo | undefined {
  if (draft === '' || isGuid(draft.toLowerCase())) return undefined;
  return { wrong: true, text: 'A GUID: 8, 4, 4, 4 and 12 hexadecimal digits.' };
}

const ATTRIBUTE_TEXTS: Readonly<Record<Attribute, string>> = {
  required: 'required',
  'no block io': 'no block I/O',
  'legacy boot': 'legacy boot',
  grow: 'grow',
  'read-only': 'read-only',
  'no auto mount': 'no auto mount',
};

function GptFields({ placed }: { placed: Placed & { slot: PartitionSlot } }) {
  const { slot, entry } = placed;
  const { change } = useSlotEditing(slot.id);
  return (
    <>
      <TextField
        label="Its id"
        mono
        value={slot.partitionId ?? ''}
        placeholder={entry?.id ?? ''}
        echo={guidEcho}
        onCommit={(id) => change({ partitionId: id === '' ? undefined : id.toLowerCase() })}
      />
      <span className="self-start pt-1 text-soft">Attributes</span>
      <SeveralChoice<Attribute>
        label="Attributes"
        dense
        values={slot.attributes ?? []}
        options={ATTRIBUTES.map((value) => ({ value, text: ATTRIBUTE_TEXTS[value] }))}
        onChange={(next) =>
          change({ attributes: next.length === 0 ? undefined : ATTRIBUTES.filter((one) => next.includes(one)) })
        }
      />
    </>
  );
}

function entryText({ partitionId, attributes = [] }: PartitionSlot): string {
  return [partitionId ? 'id as said' : 'id by rule', ...attributes].join(', ');
}

function ActiveMark({ slot }: { slot: PartitionSlot }) {
  const layout = useDesigner((state) => state.document);
  const { change, commit } = useSlotEditing(slot.id);
  return (
    <>
      <span className="text-soft">Mark</span>
      <Choice
        label="Active mark"
        value={slot.active ? 'active' : 'none'}
        options={[
          { value: 'active', text: 'active' },
          { value: 'none', text: 'not active' },
        ]}
        onChange={(value) =>
          value === 'active' ? commit(activateOnly(layout, slot.id)) : change({ active: undefined })
        }
      />
    </>
  );
}

/** What the entry of a partition holds besides its place: nothing where there is no table. */
export function EntryFields({ placed }: { placed: Placed & { slot: PartitionSlot } }) {
  const { table } = useDesigner((state) => state.document);
  const { slot, entry } = placed;
  const { change } = useSlotEditing(slot.id);
  const { kind } = table;
  if (kind === 'none') return null;
  return (
    <>
      {kind === 'mbr' && <ActiveMark slot={slot} />}
      <TextField
        label="Type"
        mono
        value={slot.type === undefined ? '' : (nameOfType(slot.type) ?? slot.type)}
        placeholder={`${entry ? typeName(entry.type) : ''}, by rule`}
        suggestions={knownTypes(kind).map(({ type, name }) => ({ value: name, text: type }))}
        echo={typeEcho(kind)}
        onCommit={(text) => change({ type: typeMeant(text, kind) })}
      />
      {kind === 'gpt' && (
        <Fold title="Id and attributes" said={entryText(slot)}>
          <GptFields placed={placed} />
        </Fold>
      )}
    </>
  );
}
