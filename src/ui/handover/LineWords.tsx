'use client';

import type { MountLine } from '@/core/naming/mount-table';
import { nameBy } from '@/core/naming/nameable';
import type { PartitionSlot } from '@/core/layout/document';
import { patched, type SlotPatch } from '@/core/layout/edits';
import { MOUNT_OPTIONS, MOUNT_OPTIONS_LIMIT, NAMED_BY, type NamedBy } from '@/core/layout/vocabulary';
import { useSlotEditing } from '../designer/state/editing';
import { Choice } from '../kit/Choice';
import { TextField } from '../kit/TextField';

type Mounting = NonNullable<PartitionSlot['mounting']>;

/** A slot with something else chosen of its line; `undefined` takes a choice back. */
export function mountedAs(
  { mounting = {} }: PartitionSlot,
  patch: { readonly [Key in keyof Mounting]: Mounting[Key] | undefined },
): SlotPatch {
  const next = patched<Mounting>(mounting, patch);
  return { mounting: Object.keys(next).length === 0 ? undefined : next };
}

const RULE = 'by rule';

function optionsEcho(draft: string) {
  if (draft === '' || (MOUNT_OPTIONS.test(draft) && draft.length <= MOUNT_OPTIONS_LIMIT)) return undefined;
  return {
    wrong: true,
    text: 'Options with commas between them, without blanks, as in noatime,nofail. Empty: by rule.',
  };
}

/** What can be chosen of a line; it is kept in the layout. */
function MountFields({ line }: { readonly line: MountLine }) {
  const { slot } = line.of.placed;
  const { change } = useSlotEditing(slot.id);
  const mounting: Mounting = slot.mounting ?? {};
  const set = (patch: Parameters<typeof mountedAs>[1]) => change(mountedAs(slot, patch));
  const isSwap = line.point.text === 'none';
  return (
    <div className="grid grid-cols-[104px_1fr] items-center gap-x-2.5 gap-y-1.5">
      <span className="text-soft">Named by</span>
      <Choice<NamedBy | typeof RULE>
        label="Named by"
        dense
        value={mounting.by ?? RULE}
        options={[
          { value: RULE, text: RULE },
          ...NAMED_BY.map((by) => ({
            value: by,
            text: by,
            disabled: nameBy(line.of, by) === undefined ? 'It has none that is known.' : undefined,
          })),
        ]}
        onChange={(by) => set({ by: by === RULE ? undefined : by })}
      />
      <TextField
        label="Options"
        mono
        value={mounting.options ?? ''}
        placeholder={line.options.map(({ text }) => text).join(',')}
        echo={optionsEcho}
        onCommit={(options) => set({ options: options === '' ? undefined : options })}
      />
      {!isSwap && (
        <>
          <span className="text-soft">Checked</span>
          <Choice
            label="Checked"
            dense
            value={mounting.pass === undefined ? RULE : String(mounting.pass)}
            options={[
              { value: RULE, text: RULE },
              { value: '1', text: 'first' },
              { value: '2', text: 'after it' },
              { value: '0', text: 'never' },
            ]}
            onChange={(pass) => set({ pass: pass === RULE ? undefined : Number(pass) })}
          />
        </>
      )}
      <span className="text-soft">In the table</span>
      <Choice
        label="In the table"
        dense
        value="yes"
        options={[
          { value: 'yes', text: 'yes' },
          { value: 'no', text: 'left out' },
        ]}
        onChange={(value) => value === 'no' && set({ leftOut: true })}
      />
      {slot.mount !== '/' && (
        <>
          <span className="text-soft">May be absent</span>
          <Choice
            label="May be absent"
            dense
            value={mounting.mayBeAbsent === undefined ? RULE : mounting.mayBeAbsent ? 'yes' : 'no'}
            options={[
              { value: RULE, text: RULE },
              { value: 'yes', text: 'yes' },
              { value: 'no', text: 'no' },
            ]}
            onChange={(value) => set({ mayBeAbsent: value === RULE ? undefined : value === 'yes' })}
          />
        </>
      )}
    </div>
  );
}

/** A line word by word, each with its reason, and what can be chosen of it. */
export function LineWords({ line, isOwn }: { readonly line: MountLine; readonly isOwn: boolean }) {
  const words = [line.source, line.point, line.type, ...line.options, line.dump, line.pass];
  const { slot } = line.of.placed;
  return (
    <section aria-label={`Line of ${slot.name}`} className="mt-3 grid gap-4 border-t border-line pt-3">
      <dl className="grid grid-cols-[minmax(120px,max-content)_1fr] gap-x-3 gap-y-1">
        {words.map(({ text, why }, i) => (
          <div key={i} className="contents">
            <dt className="font-mono text-sm break-all">{text}</dt>
            <dd className="text-soft">{why}</dd>
          </div>
        ))}
        {line.warning && <dd className="col-span-2 text-risk">{line.warning}</dd>}
      </dl>
      {isOwn ? (
        <MountFields line={line} />
      ) : (
        <p className="text-soft">It is chosen in the layout of {line.of.medium.name}, on its own hand-over.</p>
      )}
    </section>
  );
}
