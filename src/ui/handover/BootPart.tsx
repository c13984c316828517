'use client';

import { useState } from 'react';
import { type BootFile, bootFiles, commandLine, proposedEntries } from '@/core/naming/boot';
import type { MachineMedium } from '@/core/naming/nameable';
import type { BootEntry } from '@/core/layout/document';
import { ENTRY_LIMIT } from '@/core/layout/vocabulary';
import { useDesigner } from '../designer/state/context';
import { Button } from '../kit/Button';
import { Select } from '../kit/Select';
import { CopyButton } from './CopyButton';
import { EntryFields } from './EntryFields';
import { WrittenInto } from './WrittenInto';
import { TiedLines, type TiedLine } from './TiedLines';
import { tieKey } from './ties';

/** A file as lines, below one that says where it belongs. */
function linesOf(file: BootFile): TiedLine[] {
  const place = file.on ? `on ${file.on.placed.slot.name}` : 'on the ESP of the machine';
  const head: TiedLine = {
    key: file.path,
    content: (
      <span className="text-soft">
        {file.path}, {place}
      </span>
    ),
    text: `File ${file.path}, ${place}`,
    ties: [],
  };
  return [
    head,
    ...file.lines.map(({ text, command }, i): TiedLine => ({
      key: `${file.path} ${i}`,
      content: text || ' ',
      text: `Line of ${file.path}: ${text}`,
      ties: (command?.words ?? []).flatMap(({ of, by }) => (of && by ? [{ to: tieKey(of), by, isWrong: false }] : [])),
    })),
  ];
}

/** An id that no entry has. */
function freshId(entries: readonly BootEntry[]): string {
  let n = entries.length + 1;
  while (entries.some(({ id }) => id === `entry-${n}`)) n += 1;
  return `entry-${n}`;
}

/** The entries of a layout, and how they are changed. */
function useEntries() {
  const layout = useDesigner((state) => state.document);
  const commit = useDesigner((state) => state.commit);
  const entries = layout.entries ?? [];
  const put = (next: readonly BootEntry[]) =>
    commit({ do: 'change layout', patch: { entries: next.length === 0 ? undefined : [...next] } });
  return { layout, entries, put };
}

/** Ways to start: their fields, and the files that say them. */
export function BootPart({ own }: { readonly own: MachineMedium }) {
  const { layout, entries, put } = useEntries();
  const [asked, setAsked] = useState<string>();
  const [selected, setSelected] = useState<string>();
  const [partition, setPartition] = useState<string>();
  const chosen = entries.find(({ id }) => id === asked) ?? entries[0];
  if (!chosen) {
    const proposed = proposedEntries(layout);
    return (
      <>
        <p className="mb-2 text-soft">
          {proposed.length > 0
            ? 'No boot entries yet. One is proposed for each system, and one to fall back to; every field can be changed.'
            : 'No boot entries, and no system that one could start: a slot for a system comes first.'}
        </p>
        {proposed.length > 0 && <Button onClick={() => put(proposed)}>Propose entries</Button>}
        <div className="mt-3">
          <WrittenInto what="boot entries" own={own} />
        </div>
      </>
    );
  }
  const files = bootFiles(own);
  const { words, warnings } = commandLine(chosen, own);
  const change = (next: BootEntry) => {
    put(entries.map((one) => (one === chosen ? next : one)));
    setAsked(next.id);
  };
  const select = (key: string) => {
    setSelected(key);
    setPartition(undefined);
    const file = files.find(({ path }) => key.startsWith(`${path} `));
    const entry = file?.lines[Number(key.slice(file.path.length + 1))]?.entry;
    if (entry) setAsked(entry.id);
  };
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <span className="text-soft">Entry</span>
        <span className="w-72">
          <Select
            label="Boot entry"
            value={chosen.id}
            options={entries.map(({ id, title }, i) => ({ value: id, text: `${i === 0 ? 'usual: ' : ''}${title}` }))}
            onChange={setAsked}
          />
        </span>
        <Button
          disabled={entries.length >= ENTRY_LIMIT}
          onClick={() => {
            const id = freshId(entries);
            put([...entries, { ...chosen, id, title: `${chosen.title.slice(0, 60)}, another` }]);
            setAsked(id);
          }}
        >
          Add one like it
        </Button>
        <Button
          disabled={chosen === entries[0]}
          onClick={() => put([chosen, ...entries.filter((one) => one !== chosen)])}
        >
          Make it the usual one
        </Button>
        <Button onClick={() => put(entries.filter((one) => one !== chosen))}>Remove it</Button>
      </div>
      <EntryFields key={chosen.id} entry={chosen} own={own} entries={entries} onChange={change} />
      {warnings.map((one) => (
        <p key={one} className="mt-1 text-risk">
          {one}
        </p>
      ))}
      <dl className="my-3 grid grid-cols-[minmax(120px,max-content)_1fr] gap-x-3 gap-y-0.5 border-t border-line pt-2">
        {words.map(({ text, why }) => (
          <div key={text} className="contents">
            <dt className="font-mono text-sm break-all">{text}</dt>
            <dd className="text-soft">{why}</dd>
          </div>
        ))}
      </dl>
      <div className="mb-3 flex flex-wrap items-center gap-2 border-t border-line pt-2">
        {files.map(({ path, text }) => (
          <CopyButton key={path} text={text} name={`Copy ${path}`}>
            {`Copy ${path.slice(path.lastIndexOf('/') + 1)}`}
          </CopyButton>
        ))}
      </div>
      <WrittenInto what="boot entries" own={own} />
      <TiedLines
        label="Lines of the boot entries"
        media={[own]}
        lines={files.flatMap(linesOf)}
        selected={selected}
        partition={partition}
        onSelect={select}
        onPartition={(key) => {
          setPartition(key);
          setSelected(undefined);
        }}
      />
    </>
  );
}
