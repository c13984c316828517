'use client';

import { type MachineMedium, nameablesOf, nameBy } from '@/core/naming/nameable';
import { patched } from '@/core/layout/edits';
import type { BootEntry } from '@/core/layout/document';
import { ENTRY_ID, NAMED_BY, type NamedBy, PATH_FROM_ROOT, SLOT_NAME_LIMIT } from '@/core/layout/vocabulary';
import { Choice } from '../kit/Choice';
import { Select } from '../kit/Select';
import { TextField } from '../kit/TextField';

const RULE = 'by rule';

interface Props {
  readonly entry: BootEntry;
  readonly entries: readonly BootEntry[];
  readonly own: MachineMedium;
  readonly onChange: (entry: BootEntry) => void;
}

const pathsOf = (text: string) => text.split(/[\s,]+/).filter((one) => one !== '');
const wrong = (text: string) => ({ wrong: true, text });

function pathEcho(draft: string, isNeeded: boolean) {
  if (draft.trim() === '') return isNeeded ? wrong('A kernel is needed.') : undefined;
  const bad = pathsOf(draft).find((one) => !PATH_FROM_ROOT.test(one) || one.length > 200);
  return bad === undefined
    ? undefined
    : wrong(`“${bad}” does not begin with /: paths begin at the root of the file system.`);
}

/** The fields of a boot entry. */
export function EntryFields({ entry, entries, own, onChange }: Props) {
  const partitions = nameablesOf([own]);
  const root = partitions.find(({ placed }) => placed.slot.id === entry.root)!;
  const set = (patch: { readonly [Key in keyof BootEntry]?: BootEntry[Key] | undefined }) =>
    onChange(patched<BootEntry>(entry, patch));
  const idEcho = (draft: string) => {
    if (!ENTRY_ID.test(draft)) return wrong('Letters, digits and + _ . -, as files of entries are named.');
    const isTaken = entries.some((one) => one !== entry && one.id.toLowerCase() === draft.toLowerCase());
    return isTaken ? wrong('Another entry has that name.') : undefined;
  };
  return (
    <div className="grid max-w-[1100px] grid-cols-[90px_1fr_90px_1fr] items-center gap-x-3 gap-y-1.5">
      <TextField
        label="Title"
        value={entry.title}
        echo={(draft) =>
          draft.trim() === '' || draft.length > SLOT_NAME_LIMIT
            ? wrong(`1 to ${SLOT_NAME_LIMIT} characters.`)
            : undefined
        }
        onCommit={(title) => set({ title })}
      />
      <TextField label="File name" mono value={entry.id} echo={idEcho} onCommit={(id) => set({ id })} />
      <span className="text-soft">Root</span>
      <Select
        label="Root"
        value={entry.root}
        options={partitions.map(({ placed: { slot } }) => ({ value: slot.id, text: slot.name }))}
        onChange={(id) => set({ root: id, rootBy: undefined })}
      />
      <span className="text-soft">Named by</span>
      <Choice<NamedBy | typeof RULE>
        label="Root named by"
        dense
        value={entry.rootBy ?? RULE}
        options={[
          { value: RULE, text: RULE },
          ...NAMED_BY.map((by) => ({
            value: by,
            text: by,
            disabled: nameBy(root, by) === undefined ? 'It has none that is known.' : undefined,
          })),
        ]}
        onChange={(by) => set({ rootBy: by === RULE ? undefined : by })}
      />
      <TextField
        label="Kernel"
        mono
        value={entry.kernel}
        echo={(draft) => pathEcho(draft, true)}
        onCommit={(kernel) => set({ kernel: kernel.trim() })}
      />
      <TextField
        label="RAM disks"
        mono
        value={entry.initrd?.join(' ') ?? ''}
        placeholder="none"
        echo={(draft) => (pathsOf(draft).length > 8 ? wrong('Eight at most.') : pathEcho(draft, false))}
        onCommit={(text) => set({ initrd: pathsOf(text).length === 0 ? undefined : pathsOf(text) })}
      />
      <TextField
        label="Device tree"
        mono
        value={entry.devicetree ?? ''}
        placeholder="none"
        echo={(draft) => (pathsOf(draft).length > 1 ? wrong('One at most.') : pathEcho(draft, false))}
        onCommit={(text) => set({ devicetree: text.trim() === '' ? undefined : text.trim() })}
      />
      <TextField
        label="More words"
        mono
        value={entry.options ?? ''}
        placeholder="none, as in quiet panic=10"
        echo={(draft) => (draft.length > 500 ? wrong('500 characters at most.') : undefined)}
        onCommit={(text) => set({ options: text.trim() === '' ? undefined : text.trim() })}
      />
      <span className="text-soft">Root is</span>
      <Choice
        label="Root is mounted"
        dense
        value={entry.writable ? 'rw' : 'ro'}
        options={[
          { value: 'ro', text: 'read only at first' },
          { value: 'rw', text: 'writable at once' },
        ]}
        onChange={(value) => set({ writable: value === 'rw' ? true : undefined })}
      />
    </div>
  );
}
